import { onMounted, onUnmounted } from "vue";

import { COURSE } from "@/core/course";
import { useCheck } from "@/stores/check";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

/** Keys that work anywhere on the bench: undo, redo, a number for each step, and from one finding to the next; C takes the hand to the stage. */
export function useBenchKeys(): void {
  const job = useJob();
  const stage = useStage();
  const check = useCheck();

  function onKey(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    const typing = target.matches("input:not([type=color], [type=checkbox], [type=radio], [type=range]), textarea, select, [contenteditable]");
    if ((event.ctrlKey || event.metaKey) && !event.altKey && ["z", "y"].includes(event.key.toLowerCase())) {
      if (typing) return;
      event.preventDefault();
      void (event.key.toLowerCase() === "y" || event.shiftKey ? job.redo() : job.undo());
      return;
    }
    if (check.active && !typing && !event.ctrlKey && !event.metaKey && !event.altKey && ["n", "p"].includes(event.key)) {
      check.pickFollowing(event.key === "n" ? 1 : -1);
      return;
    }
    const canvas = document.querySelector<HTMLElement>(".stage canvas");
    if (event.key === "c" && !typing && !event.ctrlKey && !event.metaKey && !event.altKey && canvas && target !== canvas) {
      canvas.focus();
      canvas.dispatchEvent(new KeyboardEvent("keydown", { key: "c" }));
      return;
    }
    const step = /^[0-9]$/.test(event.key) ? COURSE[(Number(event.key) + 9) % 10] : undefined;
    if (step && !typing && !event.ctrlKey && !event.metaKey && !event.altKey) stage.openStep(step);
  }

  onMounted(() => window.addEventListener("keydown", onKey));
  onUnmounted(() => window.removeEventListener("keydown", onKey));
}
