import { onMounted, onUnmounted, ref, type Ref } from "vue";

/** Pictures dropped or pasted anywhere on the page. */
export function usePictureDrop(onPictures: (files: File[]) => void, onNothing: () => void): Ref<boolean> {
  const over = ref(false);
  let depth = 0;

  const holdsFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes("Files") ?? false;

  function onEnter(event: DragEvent): void {
    if (!holdsFiles(event)) return;
    event.preventDefault();
    depth++;
    over.value = true;
  }
  function onLeave(event: DragEvent): void {
    if (holdsFiles(event) && --depth <= 0) over.value = false;
  }
  function onOver(event: DragEvent): void {
    if (holdsFiles(event)) event.preventDefault();
  }
  function onDrop(event: DragEvent): void {
    if (!holdsFiles(event)) return;
    event.preventDefault();
    depth = 0;
    over.value = false;
    onPictures([...(event.dataTransfer?.files ?? [])]);
  }
  function onPaste(event: ClipboardEvent): void {
    if ((event.target as HTMLElement).matches("input, textarea")) return;
    const files = [...(event.clipboardData?.files ?? [])];
    if (files.length) onPictures(files);
    else onNothing();
  }

  const listeners: [string, (event: never) => void][] = [
    ["dragenter", onEnter], ["dragleave", onLeave], ["dragover", onOver], ["drop", onDrop], ["paste", onPaste],
  ];
  onMounted(() => listeners.forEach(([name, listener]) => window.addEventListener(name, listener as EventListener)));
  onUnmounted(() => listeners.forEach(([name, listener]) => window.removeEventListener(name, listener as EventListener)));
  return over;
}
