"""What can be found wrong or worth knowing, and the sentence for each."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any, Literal, NamedTuple

from .mesh_sentences import MESH_FIXES, MESH_SENTENCES
from .value import Told

__all__ = ["FINDINGS", "Finding", "Grade", "Sentence", "finding"]

Grade = Literal["stop", "look", "note"]


class Sentence(NamedTuple):
    """How grave a finding is, what it says (braces take its numbers), and what one press does about it, if anything.

    Where only the eye can tell, ``leave`` is what it is called that nothing is done: either answer settles the question.
    """

    grade: Grade
    text: str
    fix: str | None = None
    leave: str | None = None


_TABLE: Mapping[str, tuple[Grade, str]] = MappingProxyType(
    {
        "unreadable": ("stop", "{why}"),
        "our-fault": (
            "stop",
            "{file} was left out, as the program failed at it ({why}). This is our fault, not the file's: please tell us.",
        ),
        "profile-not-applied": (
            "look",
            "{file}: its color profile {why}, so its colors are read as sRGB. Convert it to sRGB where it was made.",
        ),
        "rival-maps": ("stop", "{file} and {better} both hold {maps}. Say what one of them is, or leave it out."),
        "nothing-usable": ("stop", "None of the {count} files could be taken in as a map. Say what at least one of them is."),
        "master-missing": (
            "stop",
            "{file} waits: the set has no {missing}. Give a file or a constant for it. The rest can go.",
        ),
        "no-base-color": (
            "stop",
            "The set has no base color. Files that need one wait: give a file or a constant. The rest can go.",
        ),
        "name-clash": ("stop", "{first} and {second} would both be written as {name}. Change one of the two names."),
        "name-refused": ("stop", "{file} would be written as “{name}”, which {why}. Change the chips of its name."),
        "channels-alike": (
            "look",
            "{file}: {letters} would hold the same picture though they carry {maps}. Check where they come from.",
        ),
        "aspect-differs": (
            "stop",
            "{file} is {width} × {height} px, another shape than the set ({set_width} × {set_height}). Crop it or bring another.",
        ),
        "tile-missing": (
            "look",
            "{file}: none for {tiles}. What comes of it is left out there. Bring the file, or go on without.",
        ),
        "size-differs": (
            "look",
            "{file} is {width} × {height} px; it is resized to the set's {set_width} × {set_height}.",
        ),
        "green-unsure": ("look", "{file}: the map does not tell which way green points; it is read as Y+. {why}"),
        "green-contradicts": (
            "look",
            "{file}: {who} says {said}, but its slopes only close as {found}; it is read as {found}.",
        ),
        "object-space": (
            "look",
            "{file}: its normals point all ways, so they are in object space. They are kept as such, and go only to targets that"
            " take them.",
        ),
        "axes-swapped": (
            "look",
            "{file}: its slopes only close with red and green exchanged; x and y were swapped when it was made.",
        ),
        "lossy-normal": (
            "note",
            "{file} has been through {how}: blocks of {blocks} texels show, and slopes as small as their noise mean nothing.",
        ),
        "not-a-picture": ("note", "{file} was passed over: {why}"),
        "gray-as-color": ("note", "{file}: R, G and B are the same picture; it is read as one gray."),
        "same-channels": (
            "look",
            "{file} should hold three maps, but R, G and B are the same picture. Say which map it is, or ask for another file.",
        ),
        "same-in-two-channels": (
            "look",
            "{file}: {letters} hold the same picture, though they are read as {maps}. One was packed wrong: ask for it anew.",
        ),
        "gray-specular": (
            "note",
            "{file} is a gray specular without a diffuse map: it is read as specular level, where mid gray is the usual 4 %.",
        ),
        "channel-empty": (
            "look",
            "{file}: channel {letter}, named {kind}, is black everywhere. It is left unread; say what it is if it was meant so.",
        ),
        "copy-left-out": ("note", "{file}: {maps} left out, as {better} is the same picture."),
        "preview-left-out": (
            "note",
            "{file} is left out, as it shows the material whose color {better} gives. Under another name it is a set of its own.",
        ),
        "worse-left-out": (
            "look",
            "{file}: {maps} left out, as {better} holds it too and is stored better. Leave that one out to take this.",
        ),
        "source-changed": (
            "look",
            "{file} was changed in its folder since it was taken in.",
        ),
        "source-added": ("look", "{file} lies in the folder of this set, and is not in it."),
        "unknown-kind": ("look", "{file} was left out: neither its name nor its picture says what it is."),
        "named-otherwise": ("look", "{file} was left out: it cannot be what its name says. Say what it is to take it in."),
        "surroundings": (
            "look",
            "{file} was left out: it looks like a picture of the surroundings, which lights the view on the bench.",
        ),
        "no-channel-table": (
            "look",
            "{file} was left out: what its channels hold has to be said first. Open its row and name each.",
        ),
        "workflow-undetermined": (
            "look",
            "On {share:.1%} of the set, diffuse and specular color do not say what is metal; it is read as no metal there.",
        ),
        "half-metal": (
            "look",
            "{file}: as a specular color it makes {share:.0%} of the set half metal, which hardly any surface is. It may say how"
            " strong highlights are.",
        ),
        "specular-as-level": (
            "look",
            "{file}: as a specular color it would make {share:.0%} of the set half metal, so it is read as specular level, where"
            " mid gray is the usual 4 %. Which is right?",
        ),
        "specular-missing": (
            "look",
            "{file} is called diffuse, and no specular color lies beside it: bare metal, if it shows any, is black in it."
            " Add the other.",
        ),
        "not-of-target": ("look", "{file} was left out: {target} names no file so."),
        "alpha-unclear": (
            "look",
            "{file}: its alpha is a gray picture, not holes in something solid. It is left unread; say if it is opacity.",
        ),
        "normal-alpha-open": (
            "look",
            "{file}: {why}. Say what it is if you know.",
        ),
        "source-unused": (
            "look",
            "{file} is in the set, but nothing is made of it: {why}.",
        ),
        "too-small": ("look", "{file} is {width} × {height} px: too small to derive from, so it acts as one value."),
        "name-changed": ("note", "The set is named {name}: {given} cannot be a file name everywhere."),
        "unused-master": ("note", "{unused} is in the set, but no file of {target} carries it."),
        "other-primaries": (
            "note",
            "{file}: its colors are told in {title} ({who} says so) and are brought to Rec. 709, which sRGB has{cut}.",
        ),
        "beyond-range": (
            "look",
            "{file}: {share:.1%} of its {map} lies outside of 0 to 1 (it runs from {low:.3g} to {high:.3g}). Files of whole"
            " numbers cut that. Levels under its corrections bring it inside.",
        ),
        "profile-on-data": ("note", "{file} carries a color profile though it holds data; it is read raw."),
        "normal-length": (
            "look",
            "{file}: {share:.0%} of its vectors are not of length 1 (mean {mean:.2f}); it was scaled or blended like a color.",
        ),
        "normal-black": (
            "look",
            "{file}: {share:.0%} of it is black, which is no direction. Maps are often left so where nothing lies.",
        ),
        "normal-facing-away": (
            "stop",
            "{file}: its normals do not face out (mean z {z:.2f}); all channels are inverted, or it is no tangent-space map.",
        ),
        "green-misread": (
            "look",
            "{file}: with its green flipped its slopes close {better:.1f} × better than the way it is read now.",
        ),
        "height-against-normal": (
            "look",
            "{height} and {normal} contradict each other (correlation {correlation:.2f}): the height is inverted, or"
            " green is read the wrong way and red mirrored.",
        ),
        "normal-mirrored": (
            "look",
            "{height} rises where {normal} says it falls, across but not down: x is mirrored in the normals.",
        ),
        "shine-contradicts": (
            "look",
            "{file} is named {named} but read as {read}; one is the other inverted.",
        ),
        "gray-of-color": ("note", "{file} is in color; {kind} takes its Rec. 709 luminance in linear light."),
        "bands-in-8-bit": (
            "note",
            "{file} rounds {deep} to 8 bit, and smooth slopes will show steps. A target may dither it, or store 16 bit.",
        ),
        "occlusion-twice": (
            "look",
            "{file} has ambient occlusion multiplied in, and {other} carries it again: it would count twice.",
        ),
        "turned-twice": (
            "look",
            "{file}, {letter}: {what} is inverted twice, so it is stored as it was. Take one of the two back.",
        ),
        "signed-as-color": (
            "look",
            "{file} stores {what} on the curve of colors, where its middle is no longer mid gray: flat would read as leaning. "
            "Call the file data.",
        ),
        "sign-lost": (
            "look",
            "{file} has no channel for the normal's z, which the target rebuilds as positive: {share:.1%} of the texels point "
            "down and would point up.",
        ),
        "light-lines": (
            "look",
            "Thin lines of the color are lighter than what is around them, and stand up as ridges. Are they grooves?",
        ),
        "lit-from-a-side": (
            "look",
            "Bright and dark lie like two flanks of the same bumps, lit from {side}. Are they light and shade, or is dark low?",
        ),
        "plain-ground": ("look", "What is in the picture stands on a plain ground. Is the ground a hole?"),
        "relief-or-color": ("look", "{sign} Is it relief, or only color?"),
        "light-evened": ("look", "Light falls off {ratio:.1f} × across the photo, and was evened out. Which is right?"),
        "darker-part": (
            "note",
            "A part of the photo is {ratio:.1f} × darker than the rest, in the same hue. It is taken for the material's own tone:"
            " where it is a shadow, take the photo without it.",
        ),
        "uneven-light": ("look", "Light falls off {ratio:.1f} × across the photo, and is still in its color."),
        "roughness-guessed": (
            "note",
            "How roughness follows the color is a guess: light is taken as shinier, by a little. Which spot is shinier?",
        ),
        "nearly-plain": (
            "look",
            "The color has hardly any contrast ({contrast:.1%} of lightness, where {least:.1%} fills the height), so relief read"
            " from it is kept faint.",
        ),
        "noisy-photo": ("note", "{file}: {share:.0%} of its finest detail is noise or blocks; the height leaves that size out."),
        "opacity-around": ("note", "Opacity: what is near {color}, the color around the picture, is a hole."),
        "opacity-between": (
            "note",
            "Opacity: the color is a light and a dark group, parted at {threshold:.0%} of lightness; what is {solid} is solid.",
        ),
        "opacity-assumed": (
            "look",
            "Opacity: neither its border nor its lightness parts the color by itself. {what}.",
        ),
        "clipped": ("look", "{file}: {share:.0%} of it is clipped to {end}. Nothing can be read there; take it anew if you can."),
        "framed": ("look", "{file} has a plain border, {sides}. It would repeat as lines: crop the picture first."),
        "watermarked": (
            "look",
            "{file}: the same marks come again exactly every {step} px. If that is a watermark and not the material itself, take"
            " the picture without it: it would go into every map.",
        ),
        "picks-contradict": (
            "look",
            "{title}: picks contradict each other, one missed by {worst:.2f}. Spots of one color were called different things.",
        ),
        "metal-between": (
            "look",
            "{file}: {share:.0%} of it is neither metal nor not. Metallic says what a surface is made of, not how it shines.",
        ),
        "mirror-like": (
            "look",
            "{file}: a mean roughness of {mean:.2f} is that of a mirror. If it is a gloss map, say so.",
        ),
        "color-dark": ("note", "{file}: {share:.0%} is darker than any dry surface. Part of it may be shade, or bare metal."),
        "color-bright": ("note", "{file}: {share:.0%} is brighter than fresh snow."),
        "color-vivid": ("note", "{file}: {share:.0%} is more vivid than any dye."),
        "light-in-color": (
            "look",
            "{file} darkens where {occlusion} does (correlation {correlation:.2f}): its light and shade would count twice.",
        ),
        "same-picture": ("look", "{first} and {second} are the same picture ({file}). A gray was copied into several channels."),
        "one-value": ("note", "{file}: {title} is {value} everywhere."),
        "baked-stale": (
            "look",
            "{title}: baked before, and {why}. Bake again, or the set shows another shape than the mesh has.",
        ),
        "baked-missed": (
            "look",
            "{title}: {missed:.2%} of the rays met nothing; those texels are filled from beside. Look where, and raise the"
            " offset or bring a cage.",
        ),
        "baked-moved": (
            "look",
            "The set's pictures were moved ({steps}), the UV of {file} were not: what is baked does not lie where it belongs."
            " Turn these steps off.",
        ),
        "baked-in-tiles": (
            "look",
            "The set lies in tiles, and the UV of {file} do not: a face reaches over a border. It wears the first tile alone, and"
            " nothing can be baked. Move each island into one tile.",
        ),
        "occlusions": (
            "note",
            "There are several occlusions: {used} goes into the files, {others} does not. Mix them where both are meant.",
        ),
        "no-origin": ("note", "Where the pictures of this set come from, and their license, is not noted."),
        "reformat-cut": (
            "look",
            "{file}: {share:.1%} of its values lie outside of what {depth} holds, and were cut. Choose a float format.",
        ),
        "reformat-rounded": ("note", "{file} has finer steps than {depth}: its values were rounded."),
        "reformat-alpha": ("look", "{file}: its alpha was left out, as {format} has none. Choose a format that has."),
        "reformat-lossy": (
            "look",
            "{file} holds data, and {format} changes values a little. Choose a format that keeps them.",
        ),
        "reformat-uneven": (
            "look",
            "{file} is {width} × {height} px, and no whole part of that is {longest} px or less: as pixel art it keeps its size."
            " Choose another size, or let it be averaged.",
        ),
        "data-in-alpha": ("note", "{file} holds data in the alpha of a PNG; picture editors will show it as see-through."),
        "rise-assumed": (
            "look",
            "How far {file} rises is not known: {rise} of the width is assumed, and {where}. Type what it is.",
        ),
        "rise-asked": (
            "look",
            "{normal} does not fit {height} (correlation {fit:.2f}), so the rise cannot be measured: {rise} of the width is "
            "assumed. Type what it is.",
        ),
        "rise-measurable": (
            "look",
            "How far {height} rises is assumed as {rise} of the width; {normal} says {measured} (correlation {fit:.2f}).",
        ),
        "written-flat": ("note", "{file} is flat: {why}. It is written all the same, because {reason}."),
        "does-not-repeat": (
            "look",
            "The set does not repeat {axes}: {title} jumps {seam:.1f} × as much over its border as beside it, and {where}.",
        ),
        "repeated": ("note", "{name} was {how}."),
        "not-repeated": ("look", "{name} was not made to repeat: {why}"),
        "varied": ("note", "{name} is {how}."),
        "not-varied": ("look", "{name} has no variants: {why}"),
        "broken-values": ("look", "{file}: {why}."),
        "read-as": ("note", "{file}: {done}."),
        "has-layers": ("note", "{file} holds {count} layers: {names}."),
        "stepped-height": (
            "look",
            "{file} holds a height in 8 bits: its normals turn {times:.0f} × as sharply from texel to texel as the surface does."
            " Smooth it within half a step, or bring 16 bits.",
        ),
        "density-differs": (
            "look",
            "It has {own} texels a meter, the other sets {usual}: {times:.1f} × apart, which shows where they meet."
            " At {longer} px it would match.",
        ),
        "uneven-pixels": (
            "look",
            "{file}: {width} × {height} px are no whole multiple of {from_width} × {from_height}; sampled as pixel art it loses"
            " or doubles texels here and there. Take a size of whole multiples, or sample it smoothly.",
        ),
        "older-way": (
            "look",
            "{title} is made by an older way: {was}. It stays so until you update it; the step can be undone.",
        ),
    }
)
_FIXES: Mapping[str, str] = MappingProxyType(
    {
        **MESH_FIXES,
        "green-misread": "Flip green",
        "normal-mirrored": "Flip red",
        "axes-swapped": "Swap red and green",
        "normal-length": "Make every vector 1 long",
        "normal-black": "Read black as flat",
        "half-metal": "Read it as specular level",
        "specular-as-level": "Specular color",
        "height-against-normal": "Invert the height",
        "mirror-like": "Read it as gloss",
        "shine-contradicts": "Read it as it is named",
        "light-in-color": "Take the occlusion out",
        "size-differs": "Resize it",
        "aspect-differs": "Crop it to the set's shape",
        "same-picture": "Leave the second out",
        "source-changed": "Take the newer files",
        "source-added": "Take it in",
        "rise-measurable": "Measure it",
        "older-way": "Update it",
        "stepped-height": "Smooth its steps",
        "density-differs": "Match their density",
        "light-lines": "They are grooves",
        "lit-from-a-side": "Light and shade",
        "relief-or-color": "Only color",
        "plain-ground": "Cut it out",
        "light-evened": "As photographed",
        "uneven-light": "Even it out",
        "does-not-repeat": "Make it repeat",
        "roughness-guessed": "The dark one",
    }
)
_LEFT: Mapping[str, str] = MappingProxyType(
    {
        "specular-as-level": "Specular level",
        "light-lines": "They stand up",
        "lit-from-a-side": "Dark is low",
        "relief-or-color": "Relief",
        "plain-ground": "Leave it",
        "light-evened": "Evened out",
        "roughness-guessed": "The light one",
    }
)
FINDINGS: Mapping[str, Sentence] = MappingProxyType(
    {id: Sentence(*row, _FIXES.get(id), _LEFT.get(id)) for id, row in (*_TABLE.items(), *MESH_SENTENCES.items())}
)


class Finding(Told):
    """One finding, with its sentence filled in.

    ``master`` is the map it is about and ``where`` its place on that, left, top, right, bottom in shares of the size;
    None where it is about a file's name, or about the whole.
    """

    id: str
    grade: Grade
    text: str
    numbers: dict[str, Any] = {}
    master: str | None = None
    where: tuple[float, float, float, float] | None = None


def finding(id: str, *, master: str | None = None, **numbers: Any) -> Finding:
    """Make a finding; its grade and sentence come from the table."""
    row = FINDINGS[id]
    return Finding(id=id, grade=row.grade, text=row.text.format(**numbers), numbers=numbers, master=master)
