import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";

/** Choose further pictures for the job on the bench; the steps of the last one are opened. */
export function useBringAnother(): (files?: File[]) => void {
  const job = useJob();
  const stage = useStage();

  async function bring(files: File[]): Promise<void> {
    for (const file of files) await job.bringAnother(file);
    stage.showAll();
  }

  return (files) => {
    if (files) {
      void bring(files);
      return;
    }
    const chooser = document.createElement("input");
    chooser.type = "file";
    chooser.accept = "image/*,.heic,.heif,.svg,.dxf";
    chooser.multiple = true;
    chooser.addEventListener("change", () => void bring([...(chooser.files ?? [])]));
    chooser.click();
  };
}
