import { useJob } from "@/stores/job";

/** Names for items nobody has named: a plain one, with a number where others have it already. */
export function useItemName(): { named: (name: string) => string; isPlain: (own: string, name: string) => boolean } {
  const job = useJob();
  const isPlain = (own: string, name: string): boolean => own.startsWith(name) && /^( \d+)?$/.test(own.slice(name.length));
  return {
    isPlain,
    named: (name) => {
      const same = job.items.filter((item) => isPlain(item.name, name)).length;
      return same ? `${name} ${same + 1}` : name;
    },
  };
}
