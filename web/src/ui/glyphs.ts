/** Our glyphs: those a common open-source family has, and those of our own, drawn in its stroke. */
import {
  Blend, Brush, Camera, Check, ChevronDown, ChevronLeft, ChevronRight, Circle, CircleDashed, CloudSun, Contrast,
  Crosshair, Download, Droplet, Ellipsis, EyeOff, FolderInput, Frame, Grid3x3, Hand,
  HeartPulse, Image, Info, Keyboard, Layers, LogOut, Maximize, Minus, MoveHorizontal, Network, Palette,
  PanelsTopLeft, PersonStanding, Pin, Pipette, Plus, Printer, Redo2, RefreshCw, Ruler, Search, Spline,
  Sparkles, SquareDashed, Stamp, Sun, SunDim, Target, Trash2, Triangle, Undo2, Waves, X,
} from "@lucide/vue"; // prettier-ignore
import type { Component } from "vue";

/** Strokes of our own, in a field of 24. */
const DRAWN: Record<string, string> = {
  light_range: "M12 3v18M8 7h8v10H8zM4 12h4",
  fan: "M12 21 5 4M12 21V3m0 18L19 4M12 21 2 9m10 12L22 9",
  ramp: "M3 5h18M3 10h18M3 14.5h18M3 18h18M3 20.5h18",
  pool: "M2 12c0-4 4.5-7 10-7s10 3 10 7-4.5 7-10 7S2 16 2 12zM8 12c0-1.5 1.8-2.5 4-2.5s4 1 4 2.5-1.8 2.5-4 2.5S8 13.5 8 12z",
  outline: "M7 4l10 2 4 8-7 6-10-4z",
  stretched: "M4 8v8M20 8v8M4 12h16M8 9l-3 3 3 3M16 9l3 3-3 3",
  sky: "M3 18l5-5 4 3 4-6 5 8M3 8c2-2 4-2 6 0s4 2 6 0",
  kin: "M7 6a3 3 0 1 0 .01 0M17 6a3 3 0 1 0 .01 0M12 15a3 3 0 1 0 .01 0",
  detail: "M2 18l4-9 4 6 3-10 4 13 3-7 2 4",
  distance: "M2 19l7-5 6 3 7-6M2 14l7-5 6 3 7-6M4 8l5-3",
  upright: "M6 3v18M18 3v18M10 12h4",
  burn: "M12 4a8 8 0 1 0 .01 0",
  exposure: "M12 3v18M7 8l5-5 5 5M7 16l5 5 5-5",
  rungs: "M7 3v18M17 3v18M7 7h10M7 12h10M7 17h10",
  contrast: "M4 20C12 20 12 4 20 4",
  curve: "M3 21C9 19 9 11 13 9s6-1 8-6",
  relief: "M3 12q2-7 4.5 0t4.5 0 4.5 0 4.5 0",
  haze: "M3 8h14M6 12h15M3 16h12",
  edge_fall: "M3 3h18v18H3zM12 7a5 5 0 1 0 .01 0",
  poured_light: "M21 3 10 14M17 3l-9 9M21 8l-8 8M5 21h14",
  wire: "M2 6c6 5 14 5 20 0M5 8v12M19 8v12",
  speck: "M12 9.5a2.5 2.5 0 1 0 .01 0M3 5h18v14H3z",
};
const KNOWN: Record<string, Component> = {
  add: Plus, remove: X, delete: Trash2, undo: Undo2, redo: Redo2, more: Ellipsis, down: ChevronDown, right: ChevronRight,
  left: ChevronLeft, search: Search, export: Download, tray: Layers, info: Info, keys: Keyboard, keep: Image,
  point: Crosshair, dodge: Circle, folder: FolderInput, camera: Camera, out: LogOut, check: Check,
  again: RefreshCw, colour: Droplet, water: Waves, subject: PersonStanding, hand: Brush, another: Image,
  whole: Maximize, vividness: Sparkles, hue_steer: Palette, gather_hues: Target, rung_tints: Layers, channel_mix: Blend,
  primaries: Triangle, sky_filter: CloudSun, monochrome: Contrast, bloom: SunDim, heal: HeartPulse, clone: Stamp,
  regrow: Network, straighten: Minus, pin: Crosshair, pull: Frame, nudge: Hand, hide: EyeOff, press: Printer,
  preflight: Check, strip: PanelsTopLeft, pick: Pipette, level: Ruler, crop: SquareDashed, start: Sun, seams: Spline,
  turn: MoveHorizontal, frames: Grid3x3, loan: CircleDashed, watch: Pin,
}; // prettier-ignore

export const glyph = (name: string): Component | string | undefined => KNOWN[name] ?? DRAWN[name];
