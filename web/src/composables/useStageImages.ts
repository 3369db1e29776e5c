import { onScopeDispose, shallowRef, watch, type Ref, type ShallowRef } from "vue";

import { imageUrl, pictureUrl } from "@/api/jobs";
import type { Result } from "@/api/types";
import type { StageState } from "@/core/course";
import { useTools } from "@/stores/tools";

export interface StageImages {
  picture: ImageBitmap | null;
  background: ImageBitmap | null;
  colours: ImageBitmap | null;
}

async function load(url: string): Promise<ImageBitmap | null> {
  const answer = await fetch(url);
  return answer.ok ? createImageBitmap(await answer.blob()) : null;
}

/** The rasters of a job for the stage; the old ones stay until the new ones are there. */
export function useStageImages(
  jobId: Ref<number | undefined>,
  result: Ref<Result | null>,
  shown: () => StageState[],
): ShallowRef<StageImages> {
  const images = shallowRef<StageImages>({ picture: null, background: null, colours: null });
  const tools = useTools();
  let alive = true;
  /** Names the picture shown: empty for the one that came in. */
  let shownPicture: string | null = null;

  async function loadPicture(name: string, url: string): Promise<void> {
    if (name === shownPicture) return;
    shownPicture = name;
    const picture = await load(url);
    if (alive && picture && shownPicture === name) images.value = { ...images.value, picture };
  }

  watch(
    jobId,
    async (id) => {
      images.value = { picture: null, background: null, colours: null };
      if (id === undefined) return;
      shownPicture = null;
      await loadPicture("", pictureUrl(id));
    },
    { immediate: true },
  );

  watch(
    () => result.value?.key,
    async (key) => {
      // A preview's rasters are fetched only while one of them is looked at.
      if (!key) return;
      const name = result.value?.facts.picture.image ?? "";
      void loadPicture(name, name ? imageUrl(key, "picture") : pictureUrl(jobId.value ?? 0));
      if (result.value?.preview && !shown().some((state) => state === "background" || state === "colours")) return;
      const [background, colours] = await Promise.all([load(imageUrl(key, "background")), load(imageUrl(key, "colours"))]);
      if (!alive || result.value?.key !== key) return;
      images.value = { ...images.value, background, colours };
      tools.ground = null;
    },
    { immediate: true },
  );

  // A result that is shown again, after an undo say, brings no new rasters; what was shown ahead of it is over all the same.
  watch(result, (now, before) => {
    if (now && !now.preview && now.key === before?.key) tools.ground = null;
  });

  onScopeDispose(() => (alive = false));
  return images;
}
