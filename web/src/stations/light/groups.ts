/** The groups of ingredients, in the order one asks. */
export const GROUPS = ["Its light", "Its colour", "Where it lies", "What it is", "By hand"];
