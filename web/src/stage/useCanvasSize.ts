/** The size of a canvas that fills its host, px; its pixels follow the screen's. */

import { onMounted, onScopeDispose, ref, type Ref } from "vue";

import type { Size } from "@/core/viewport";

export function useCanvasSize(host: Ref<HTMLElement | undefined>, canvas: Ref<HTMLCanvasElement | undefined>): Ref<Size> {
  const size = ref<Size>({ width: 0, height: 0 });
  const watcher = new ResizeObserver(([entry]) => {
    if (!entry || !canvas.value) return;
    const { width, height } = entry.contentRect;
    const ratio = window.devicePixelRatio || 1;
    canvas.value.width = Math.round(width * ratio);
    canvas.value.height = Math.round(height * ratio);
    size.value = { width, height };
  });
  onMounted(() => host.value && watcher.observe(host.value));
  onScopeDispose(() => watcher.disconnect());
  return size;
}
