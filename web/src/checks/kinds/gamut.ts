/** What the paper cannot hold. */
import { useProof } from "../../stores/proof";
import type { Check } from "../check";

export default {
  what: "gamut",
  key: "q",
  label: "Gamut",
  said: "Grey: held by this paper. Ochre to red: out of its gamut, by ΔE 3 to 12",
  fits: () => !!useProof().paper?.profile,
  proof: "gamut",
} satisfies Check;
