import { useCallback, useRef, useState } from "react";
import type { FileLook } from "../../api/client";
import type { Places } from "./arrangement";
import type { Offer } from "./OfferBar";
import {
  corrected,
  type Row,
  type Said,
  underItsName,
  wholeOf,
  withoutTaken,
  withReadingsBySet,
} from "./rows";

/**
 * The rows of the table and what a person corrects of them, each correction one step that can be
 * undone.
 */
export function useRows() {
  const [rows, setRows] = useState<Row[]>([]);
  const past = useRef<Row[][]>([]);
  const step = useCallback(
    (next: (now: Row[]) => Row[]) =>
      setRows((now) => {
        past.current.push(now);
        return next(now);
      }),
    [],
  );
  const handleChange = useCallback(
    (row: Row, said: Said) =>
      step((now) => now.map((one) => (one === row ? corrected(row, said) : one))),
    [step],
  );
  // names that sets were given: files of theirs may still come
  const given = useRef(new Map<string, string>());
  const handleRename = useCallback(
    (own: Row[], name: string) => {
      for (const { look } of own)
        if (look.set_name !== name) given.current.set(look.set_name, name);
      given.current.delete(name);
      step((now) =>
        now.map((one) => (own.includes(one) ? corrected(one, { set_name: name }) : one)),
      );
    },
    [step],
  );
  const handleLeaveOut = useCallback(
    (own: Row[]) =>
      step((now) =>
        now.map((one) => (own.includes(one) ? { ...one, isLeftOut: !own[0].isLeftOut } : one)),
      ),
    [step],
  );
  /** No step of its own: it is found again whenever a step is undone. */
  const handlePlaces = useCallback((places: Places) => {
    const said = [...places].flatMap(([key, { by_set: reading }]) =>
      reading ? [[key, reading] as const] : [],
    );
    if (said.length) setRows((now) => withReadingsBySet(now, new Map(said)));
  }, []);
  const handleOffer = (offer: Offer) => {
    const read = new Map(offer.files.map((file) => [file.name, file]));
    step((now) =>
      now.map((row) => {
        const file = read.get(row.look.name);
        return file
          ? corrected(row, {
              kind: wholeOf(file.reads),
              reads: file.reads,
              spans: file.spans,
              green: file.green,
              set_name: file.set,
            })
          : row;
      }),
    );
  };
  return {
    rows,
    setRows,
    named: (look: FileLook) => underItsName(look, given.current),
    step,
    undo: () => {
      const before = past.current.pop();
      given.current.clear();
      if (before) setRows(before);
    },
    drop: (gone: Set<Row>) => {
      past.current = [];
      given.current.clear();
      setRows((now) => withoutTaken(now, gone));
    },
    handleChange,
    handleRename,
    handleLeaveOut,
    handleOffer,
    handlePlaces,
  };
}
