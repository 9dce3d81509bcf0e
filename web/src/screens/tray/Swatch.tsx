import { createContext, use, useEffect, useState } from "react";
import { inTurns } from "../../api/turns";

const drawn = new Set<string>(); // addresses of pictures that came before: the browser has them
const turns = inTurns(2); // each is worked out: more at once would hold up what is being looked at

/** Around cards: whether they rush by, and may be out of view again before their pictures came. */
export const Rushed = createContext(false);

/** Until the browser has a picture ready to be shown. */
async function come(address: string) {
  const picture = new Image();
  picture.src = address;
  await picture.decode();
  drawn.add(address);
}

/** The picture of a set, once it is there; none is asked for while cards rush by, nor for a card that is gone. */
export function Swatch({ address }: { address: string }) {
  const isRushed = use(Rushed);
  const [isHere, setHere] = useState(() => drawn.has(address));
  useEffect(() => {
    if (isRushed || isHere) return;
    let isWanted = true;
    turns.ask(address, async () => {
      if (isWanted) await come(address).catch(() => undefined);
      if (isWanted) setHere(true);
    });
    return () => {
      isWanted = false;
    };
  }, [isRushed, isHere, address]);
  return isHere && <img alt="" decoding="async" src={address} className="size-full object-cover" />;
}
