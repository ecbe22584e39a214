/** Proof: is it better than where one started, and will the paper hold it? */
import { useProof } from "../../stores/proof";
import type { Station } from "../station";
import ProofShelf from "./ProofShelf.vue";
import ProofSide from "./ProofSide.vue";
import ProofVerbs from "./ProofVerbs.vue";
import ProofOver from "./ProofOver.vue";

export default {
  name: "Proof",
  side: ProofSide,
  above: ProofVerbs,
  below: ProofShelf,
  over: ProofOver,
  // the picture as its paper will show it
  asks(check) {
    if (check) return {};
    const proof = useProof();
    return { proof: proof.look, paper_white: proof.white };
  },
  sheet: () => useProof().sheet,
  says() {
    const proof = useProof();
    const left = proof.flight?.to_look_at.length;
    if (left && !proof.stale) return `${left} to check`;
    return proof.paper?.name ?? "";
  },
  band() {
    const { paper } = useProof();
    if (!paper) return "";
    const lines = paper.moves.filter((m) => m.on).length;
    return `${paper.name}${lines ? `, ${lines} of its own lines` : ""}.`;
  },
} satisfies Station;
