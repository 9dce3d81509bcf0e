/** The places in working order; their numbers are their keys. */
export const PLACES = [
  ["tray", "Tray"],
  ["intake", "Intake"],
  ["bench", "Bench"],
  ["routing", "Routing"],
  ["delivery", "Delivery"],
] as const;

/** What the list of keys shows, place by place. */
export const KEYS: readonly (readonly [
  where: string,
  rows: readonly (readonly [keys: string, does: string])[],
])[] = [
  [
    "Everywhere",
    [
      ["1 … 5", "Go to a place"],
      ["Ctrl Enter", "Deliver what is in hand; in Intake, take it in first"],
      ["Ctrl V", "Paste a picture"],
      ["A", "Open the assay"],
      ["D", "Light or dark panels"],
      ["?", "This list"],
    ],
  ],
  [
    "Tray",
    [
      ["Ctrl A", "Select every set that is shown"],
      ["Esc", "Select none"],
      ["Del", "Take the selected sets off the tray"],
    ],
  ],
  [
    "Intake",
    [
      ["↑ ↓", "Go from row to row"],
      ["Enter", "Open the row, or agree with what it may be"],
      ["G", "Flip the row's green"],
      ["Del", "Leave the row out, or take it back"],
      ["Ctrl Z", "Undo a correction"],
      ["B P F S", "Base color, photo, diffuse, specular color"],
      [
        "N H R L M O T E C",
        "Normal, height, roughness, gloss, metallic, occlusion, opacity, emissive, channels apart",
      ],
    ],
  ],
  [
    "Bench",
    [
      ["Ctrl Z", "Undo"],
      ["Ctrl Shift Z", "Redo"],
      ["[ ]", "Go from master to master"],
      ["Space", "Hold to see the other picture"],
      ["P F L", "Flat beside lit, flat alone, lit alone"],
      ["C", "One picture or a divide of two"],
      ["T", "Light test for green"],
      ["G", "Flip the green of the given normals in hand"],
      ["+ −", "Zoom"],
      ["0", "Fit"],
      ["← → ↑ ↓", "Move the picture, the divide, the lamp or a control in focus"],
      ["Enter", "Pick what is in the middle of the picture in focus"],
    ],
  ],
  [
    "Routing",
    [
      ["← → ↑ ↓", "Go from hole to hole"],
      ["Shift ← →", "Go from channel to channel"],
      ["Enter", "Feed the hole from its row"],
      ["I", "Invert the channel"],
    ],
  ],
];
