/** The one drawer over the ladder: file, tray, shortcuts or facts; one at a time. */
import { defineStore } from "pinia";
import { ref } from "vue";

export type Drawer = "" | "export" | "tray" | "keys" | "facts";

export const useDrawer = defineStore("drawer", () => {
  const open = ref<Drawer>("");
  function toggle(what: Drawer): void {
    open.value = open.value === what ? "" : what;
  }
  function close(): void {
    open.value = "";
  }
  return { open, toggle, close };
});
