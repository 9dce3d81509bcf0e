import { PMREMGenerator, type Texture, type WebGLRenderer } from "three";
import { type House, ownLight, type Situation } from "./names";
import { houseOf, type Light, pictureOf, roomOf, SKIES } from "./situations";
import { withFewSamples } from "./software";

/** How pictures of surroundings are held around the body, and their light by their ids. */
export type Around = { turn: number; stops: number; lights: Record<string, Light> };

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
    const catcher = new PMREMGenerator(this.renderer);
    const picture = pictureOf(light);
    const caught = catcher.fromEquirectangular(picture).texture;
    catcher.dispose();
    picture.dispose();
    this.caught.set(light, caught);
    return caught;
  }

  private room(house: House): Texture {
    const known = this.rooms.get(house);
    if (known) return known;
    const catcher = new PMREMGenerator(this.renderer);
    const work = () => catcher.fromScene(roomOf(SKIES[house]), 0.02).texture;
    const caught = this.isSoftware ? withFewSamples(work) : work();
    catcher.dispose();
    this.rooms.set(house, caught);
    return caught;
  }
}
