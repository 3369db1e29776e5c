<script setup lang="ts">
/** A border: around what, how far off, with which corners. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useMadeControl } from "@/composables/useMadeControl";
import { useJob } from "@/stores/job";
import AppCheck from "@/ui/AppCheck.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppSlider from "@/ui/AppSlider.vue";
import ColourWell from "@/ui/ColourWell.vue";

const { t } = useI18n();
const job = useJob();
const { made, move, settle } = useMadeControl("border");
const others = computed(() => job.items.filter((item) => item.kind !== "border"));
const around = computed(() => (made.value?.around?.length ? "some" : "all"));
const choices = (["all", "some"] as const).map((value) => ({ value, label: t(`arrange.border.${value}`) }));
const corners = (["round", "sharp", "flat"] as const).map((value) => ({ value, label: t(`arrange.border.${value}`) }));
function setAround(which: "all" | "some"): void {
  settle({ around: which === "all" ? [] : others.value.slice(-1).map((item) => item.id) });
}
function toggle(id: string, on: boolean): void {
  const now = made.value?.around ?? [];
  const next = on ? [...now, id] : now.filter((one) => one !== id);
  if (next.length) settle({ around: next });
}
</script>

<template>
  <div v-if="made" class="group">
    <p class="soft">{{ t("arrange.border.edge") }}</p>
    <AppSlider
      :label="t('arrange.border.distance')" :value="made.distance_mm ?? 3.175" :min="0.2" :max="30" :step="0.025" :digits="3" unit="mm" ratio
      :low="t('arrange.border.near')" :high="t('arrange.border.far')" @move="move({ distance_mm: $event })" @settle="settle({ distance_mm: $event })"
    />
    <AppChoice :label="t('arrange.border.corners')" :options="corners" :model-value="made.corners ?? 'round'" @update:model-value="settle({ corners: $event })" />
    <AppCheck :label="t('arrange.border.windows')" :value="made.windows === 'keep'" @settle="settle({ windows: $event ? 'keep' : 'drop' })" />
    <AppSlider
      :label="t('arrange.border.bridge')" :value="made.bridge_mm ?? 0" :min="0" :max="30" :step="0.5" :digits="1" unit="mm"
      :low="t('arrange.border.none')" :high="t('arrange.border.wide')" @move="move({ bridge_mm: $event })" @settle="settle({ bridge_mm: $event })"
    />
    <div class="row">
      <span>{{ t("arrange.colour") }}</span>
      <ColourWell :label="t('arrange.colour')" :value="made.colour ?? '#ffffff'" @move="move({ colour: $event })" @settle="settle({ colour: $event }, 'coloured')" />
    </div>
    <AppChoice v-if="others.length > 1" :label="t('arrange.border.around')" :options="choices" :model-value="around" @update:model-value="setAround" />
    <div v-if="around === 'some'" class="some">
      <AppCheck v-for="item in others" :key="item.id" :label="item.name" :value="made.around?.includes(item.id) ?? false" @settle="toggle(item.id, $event)" />
    </div>
  </div>
</template>

<style scoped>
.group { display: grid; gap: 14px; border-top: 1px dashed var(--stitch); padding-top: 12px; }
.row { display: flex; justify-content: space-between; align-items: center; font-weight: 700; }
.some { display: grid; gap: 6px; padding-left: 4px; }
p { margin: 0; }
</style>
