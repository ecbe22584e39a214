/** Without the open line. */
import { groundOf } from "../../api/client";
import type { Check } from "../check";

export default {
  what: "line",
  key: "1",
  label: "Without",
  said: "Without this edit",
  document(doc, { line }) {
    const ground = groundOf(doc);
    const lines = [...(doc.moves ?? []), ...(doc.repairs ?? []), ...(doc.shapes ?? [])];
    for (const m of lines) if (m.id === line) m.on = false;
    if (line && ground[line]) ground[line].on = false;
  },
} satisfies Check;
