import { onMounted, onUnmounted, ref, type Ref } from "vue";

/** Whether the sheet of keys is asked for. */
export const helpAsked = ref(false);

/** "?" asks for it, wherever one is. */
export function useHelpKey(): Ref<boolean> {
  function onKey(event: KeyboardEvent): void {
    const typing = (event.target as HTMLElement).matches("input, textarea, select, [contenteditable]");
    if (event.key === "?" && !typing && !event.ctrlKey && !event.metaKey) helpAsked.value = true;
  }
  onMounted(() => window.addEventListener("keydown", onKey));
  onUnmounted(() => window.removeEventListener("keydown", onKey));
  return helpAsked;
}
