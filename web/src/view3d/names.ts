/** What a person can choose for the lit view. Apart from the library that draws it, so that it loads only when asked for. */
export const BODIES = [["plane", "Plane"], ["ball", "Ball"], ["tube", "Tube"], ["cushion", "Cushion"], ["fold", "Fold"]] as const;
export const SITUATIONS = [["indoor", "Indoor"], ["overcast", "Overcast"], ["low-sun", "Low sun"]] as const;

export type Body = (typeof BODIES)[number][0];
export type Situation = (typeof SITUATIONS)[number][0];
