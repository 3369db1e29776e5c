import { onMounted, onUnmounted } from "vue";

import { COURSE } from "@/core/course";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

/** Keys that work anywhere on the bench: undo, redo, and a number for each step. */
export function useBenchKeys(): void {
  const job = useJob();
  const stage = useStage();

  function onKey(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    const typing = target.matches("input:not([type=color], [type=checkbox], [type=radio], [type=range]), textarea, select, [contenteditable]");
    if ((event.ctrlKey || event.metaKey) && !event.altKey && ["z", "y"].includes(event.key.toLowerCase())) {
      if (typing) return;
      event.preventDefault();
      void (event.key.toLowerCase() === "y" || event.shiftKey ? job.redo() : job.undo());
      return;
    }
    const step = COURSE[Number(event.key) - 1];
    if (step && !typing && !event.ctrlKey && !event.metaKey && !event.altKey) stage.openStep(step);
  }

  onMounted(() => window.addEventListener("keydown", onKey));
  onUnmounted(() => window.removeEventListener("keydown", onKey));
}
