import { onScopeDispose, shallowRef, watch, type Ref, type ShallowRef } from "vue";

import { loadImage } from "@/api/client";
import { imagePath, picturePath } from "@/api/jobs";
import type { ItemResult, Result } from "@/api/types";
import type { StageState } from "@/core/course";
import { NO_IMAGES, type ItemImages } from "@/core/itemImages";
import { useTools } from "@/stores/tools";

/** The rasters of a job's items, by their ids. */
export type StageImages = Readonly<Record<string, ItemImages>>;

/** The rasters of a job for the stage; the old ones stay until the new ones are there, and equal ones are loaded once. */
export function useStageImages(
  jobId: Ref<number | undefined>,
  result: Ref<Result | null>,
  shown: () => StageState[],
): ShallowRef<StageImages> {
  const images = shallowRef<StageImages>({});
  const tools = useTools();
  /** What each raster shown was loaded from, by item and kind. */
  const loaded = new Map<string, string>();
  let alive = true;

  async function load(item: string, kind: keyof ItemImages, path: string): Promise<void> {
    const place = `${item}/${kind}`;
    if (loaded.get(place) === path) return;
    loaded.set(place, path);
    const image = await loadImage(path);
    if (!alive || loaded.get(place) !== path) return;
    if (kind === "background") tools.ground = null;
    if (!image) {
      loaded.delete(place);
      return;
    }
    images.value = { ...images.value, [item]: { ...(images.value[item] ?? NO_IMAGES), [kind]: image } };
  }

  function loadItem(item: ItemResult, preview: boolean): void {
    if (!item.images) return;
    const { picture, background, colours } = item.images;
    void load(item.id, "picture", picture ? imagePath(picture) : picturePath(jobId.value ?? 0, item.id));
    // A preview's rasters are fetched only while one of them is looked at.
    if (preview && !shown().some((state) => ["background", "colours", "pixels"].includes(state))) return;
    void load(item.id, "background", imagePath(background));
    void load(item.id, "colours", imagePath(colours));
  }

  watch(jobId, () => {
    loaded.clear();
    images.value = {};
  });
  watch(
    result,
    (now) => {
      now?.items.forEach((item) => loadItem(item, now.preview));
      // One that is shown again, after an undo say, may bring no new rasters; what was shown ahead of it is over all the same.
      if (now && !now.preview && now.items.every((item) => !item.images || loaded.get(`${item.id}/background`) === imagePath(item.images.background))) {
        tools.ground = null;
      }
    },
    { immediate: true },
  );

  onScopeDispose(() => (alive = false));
  return images;
}
