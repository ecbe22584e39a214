/** Px of the device to one of the page: 100 % is one px of the device, wherever something is judged. */
import { createSharedComposable, useDevicePixelRatio } from "@vueuse/core";

export const useRatio = createSharedComposable(() => useDevicePixelRatio().pixelRatio);
