/** Ground: from the sensor to a good start. */
import type { Kind } from "../../api/client";
import { sentence, type Values } from "../../model/wording";
import { useScene } from "../../stores/scene";
import type { Station } from "../station";
import GroundShelf from "./GroundShelf.vue";
import GroundSide from "./GroundSide.vue";
import GroundVerbs from "./GroundVerbs.vue";
import GroundOver from "./GroundOver.vue";

const LONG = 18;

/** Whether a line differs from how a fresh scene stands. */
function differs(kind: Kind, params: Values): boolean {
  return kind.fields.some(
    (f) =>
      JSON.stringify(params[f.name] ?? null) !==
      JSON.stringify(f.kind === "drawn" ? [] : (f.default ?? null)),
  );
}

export default {
  name: "Ground",
  side: GroundSide,
  above: GroundVerbs,
  below: GroundShelf,
  over: GroundOver,
  asks(check) {
    if (check) return {};
    const scene = useScene();
    return {
      // Trim is worked on the whole picture, with what it cuts away
      untrimmed: scene.openMove === "trim",
      // while an end is moved, what clips shows
      show: scene.dragging && scene.openMove === "ends" ? "limits" : "picture",
    };
  },
  says() {
    const things = useScene().state?.open ?? [];
    const first = things[0] ?? "";
    return things.length > 1 || first.length > LONG ? `${things.length} to check` : first;
  },
  band() {
    const scene = useScene();
    const said = scene.groundKinds
      .filter((kind) => kind.kind !== "projection")
      .map((kind) => ({ kind, line: scene.ground(kind.kind) }))
      .filter(({ kind, line }) => line.on && differs(kind, line.params as Values))
      .map(({ kind, line }) => sentence(kind, line.params as Values));
    return said.length ? `${said.join(" · ")}.` : "As shot; adjust at Ground.";
  },
} satisfies Station;
