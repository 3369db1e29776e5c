import { computed, shallowRef, watch, type ComputedRef, type Ref } from "vue";

import type { Result } from "@/api/types";
import { pathNodes } from "@/core/pathNodes";
import type { LayerShape } from "@/stage/shapes";

/** The layers of a result as shapes to paint, made once per layer path. */
export function useShapes(result: Ref<Result | null>): ComputedRef<LayerShape[]> {
  const kept = shallowRef(new Map<string, Pick<LayerShape, "path" | "nodes">>());
  watch(
    result,
    (now) => {
      const next = new Map<string, Pick<LayerShape, "path" | "nodes">>();
      for (const { path } of now?.layers ?? []) {
        next.set(path, kept.value.get(path) ?? { path: new Path2D(path), nodes: pathNodes(path) });
      }
      kept.value = next;
    },
    { immediate: true },
  );
  return computed(() =>
    (result.value?.layers ?? []).flatMap(({ id, key, holds, colour, path, strokes }) => {
      const shape = kept.value.get(path);
      const own = id === "backing" || id === "reverse" ? "" : holds.length > 1 ? null : key.slice(0, 7);
      return shape ? [{ colour, own, ...shape, strokes: strokes.map(({ role, path: own }) => ({ role, path: new Path2D(own) })) }] : [];
    }),
  );
}
