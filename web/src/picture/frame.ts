/** Where the picture lies on its stage, for whatever is drawn over it. */
import type { InjectionKey, Ref } from "vue";

import type { Frame } from "../model/plane";

export const FRAME: InjectionKey<Readonly<Ref<Frame>>> = Symbol("frame");
