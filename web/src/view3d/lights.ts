import { PMREMGenerator, type Texture, type WebGLRenderer } from "three";
import { type House, ownLight, type Situation } from "./names";
import { houseOf, type Light, pictureOf, roomOf, SKIES } from "./situations";
import { withFewSamples } from "./software";

/** How pictures of surroundings are held around the body, and their light by their ids. */
export type Around = { turn: number; stops: number; lights: Record<string, Light> };

const SOFT_PANELS = 0.02; // radians that the rims of a room's panels fade over

/** What lights the body: the room of a situation or a picture of surroundings, each caught once. */
export class Lights {
  private readonly rooms = new Map<House, Texture>();
  private readonly caught = new WeakMap<Light, Texture>();

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly isSoftware: boolean,
  ) {}

  /** A picture of surroundings has its own lamps; it is turned and brightened as `around` says. */
  of(situation: Situation, around: Around | null) {
    const own = ownLight(situation);
    const light = own === null ? undefined : around?.lights[own];
    if (!around || !light) {
      const house = houseOf(situation);
      return { room: this.room(house), lamp: SKIES[house].lamp, turn: 0, strength: 1 };
    }
    return { room: this.picture(light), lamp: 0, turn: around.turn, strength: 2 ** around.stops };
  }

  private picture(light: Light): Texture {
    const known = this.caught.get(light);
    if (known) return known;
    const picture = pictureOf(light);
    const caught = this.caughtBy((catcher) => catcher.fromEquirectangular(picture));
    picture.dispose();
    this.caught.set(light, caught);
    return caught;
  }

  private room(house: House): Texture {
    const known = this.rooms.get(house);
    if (known) return known;
    const soft = this.isSoftware ? 0 : SOFT_PANELS;
    const caught = this.caughtBy((catcher) => catcher.fromScene(roomOf(SKIES[house]), soft));
    this.rooms.set(house, caught);
    return caught;
  }

  private caughtBy(work: (catcher: PMREMGenerator) => { texture: Texture }): Texture {
    const catcher = new PMREMGenerator(this.renderer);
    const { texture } = this.isSoftware ? withFewSamples(() => work(catcher)) : work(catcher);
    catcher.dispose();
    return texture;
  }
}
