<script setup lang="ts">
/** What an item does to what lies below it, as a sentence one can change. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Item, Part } from "@/api/types";
import { useArrange } from "@/stores/arrange";
import { useJob } from "@/stores/job";
import AppCheck from "@/ui/AppCheck.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppSlider from "@/ui/AppSlider.vue";

const props = defineProps<{ item: Item }>();
const { t } = useI18n();
const arrange = useArrange();
const job = useJob();
const part = computed<Part>(() => props.item.part);
const kinds = (["adds", "melts", "cuts", "keeps"] as const).map((value) => ({ value, label: t(`arrange.part.${value}`) }));

const below = computed(() => new Set(job.items.slice(0, job.items.findIndex((one) => one.id === props.item.id)).map((one) => one.id)));
/** The layers that something below is cut as, with what holds on to them. */
const layers = computed(() =>
  (job.result?.layers ?? []).flatMap((layer, i) => {
    const targets = layer.holds.filter((hold) => below.value.has(hold.item)).map(({ item, colour }) => ({ item, colour }));
    return targets.length ? [{ value: String(i), label: layer.name, targets }] : [];
  }),
);
const isNamed = (i: { targets: { item: string; colour: string }[] }): boolean =>
  i.targets.some((own) => part.value.targets.some((one) => one.item === own.item && one.colour === own.colour));
const chosen = computed(() => layers.value.find(isNamed)?.value ?? (part.value.kind === "melts" ? (layers.value[0]?.value ?? "") : "all"));
const options = computed(() =>
  part.value.kind === "melts" ? layers.value : [{ value: "all", label: t("arrange.part.all"), targets: [] }, ...layers.value],
);
const says = computed(() => {
  const { kind, clear_mm } = part.value;
  if (kind === "adds") return clear_mm == null ? t("arrange.part.says.adds") : t("arrange.part.says.addsClear", { mm: `${clear_mm} mm` });
  const layer = layers.value.find((one) => one.value === chosen.value)?.label ?? t("arrange.part.below");
  return t(`arrange.part.says.${kind}`, { layer });
});

function setKind(kind: Part["kind"]): void {
  const first = layers.value.at(-1);
  void arrange.setPart({ kind, targets: kind === "melts" && first ? first.targets.slice(0, 1) : [], clear_mm: kind === "keeps" ? null : part.value.clear_mm });
}
function setLayer(value: string): void {
  const targets = layers.value.find((one) => one.value === value)?.targets ?? [];
  void arrange.setPart({ targets: part.value.kind === "melts" ? targets.slice(0, 1) : targets });
}
const tryClear = (clear_mm: number): void => void job.tryItems({ [props.item.id]: { part: { clear_mm } } });
</script>

<template>
  <div class="group">
    <AppSelect above :label="t('arrange.part.title')" :options="kinds" :model-value="part.kind" @update:model-value="setKind" />
    <p v-if="!below.size" class="soft">{{ t("arrange.part.nothingBelow") }}</p>
    <template v-else>
      <AppSelect
        v-if="part.kind === 'melts' || part.kind === 'cuts'" :label="t(part.kind === 'melts' ? 'arrange.part.into' : 'arrange.part.outOf')"
        :options="options" :model-value="chosen" @update:model-value="setLayer"
      />
      <AppCheck
        v-if="part.kind !== 'keeps'" :label="t('arrange.part.clear')" :value="part.clear_mm != null"
        @settle="arrange.setPart({ clear_mm: $event ? 0.5 : null })"
      />
      <AppSlider
        v-if="part.clear_mm != null && part.kind !== 'keeps'" :label="t('arrange.part.clearMm')" :value="part.clear_mm" :min="0" :max="10" :step="0.1" :digits="1" unit="mm"
        :low="t('arrange.border.none')" :high="t('arrange.border.wide')" @move="tryClear" @settle="arrange.setPart({ clear_mm: $event })"
      />
      <p class="soft says">{{ says }}</p>
    </template>
  </div>
</template>

<style scoped>
.group { display: grid; gap: 12px; border-top: 1px dashed var(--stitch); padding-top: 12px; }
p { margin: 0; }
</style>
