import { ref, type Ref } from "vue";

import { ApiError, ask, nameOf } from "@/api/client";
import { useJob } from "@/stores/job";

/** Files handed over by the server, under the names that it gives them. handedOver: the name of the last one. */
export function useDownload(): { busy: Ref<boolean>; handedOver: Ref<string>; download: (path: string) => Promise<void> } {
  const job = useJob();
  const busy = ref(false);
  const handedOver = ref("");

  async function download(path: string): Promise<void> {
    if (busy.value) return;
    busy.value = true;
    handedOver.value = "";
    try {
      const answer = await ask(path);
      const link = document.createElement("a");
      link.href = URL.createObjectURL(await answer.blob());
      link.download = nameOf(answer) ?? "bisectum.svg";
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
      handedOver.value = link.download;
    } catch (reason) {
      job.error = reason instanceof ApiError ? reason : new ApiError("offline", String(reason));
    } finally {
      busy.value = false;
    }
  }

  return { busy, handedOver, download };
}
