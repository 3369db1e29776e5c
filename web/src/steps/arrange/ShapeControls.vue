<script setup lang="ts">
/** A shape: which one, and its sizes. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useItemName } from "@/composables/useItemName";
import { useMadeControl } from "@/composables/useMadeControl";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import AppSlider from "@/ui/AppSlider.vue";
import ColourWell from "@/ui/ColourWell.vue";
import SizeField from "@/ui/SizeField.vue";

const { t } = useI18n();
const stage = useStage();
const job = useJob();
const { named, isPlain } = useItemName();
const { id, made, move, settle } = useMadeControl("shape");
const FORMS = {
  rectangle: "M5 9h30v22H5z", ellipse: "M20 8c9 0 15 5 15 12s-6 12-15 12S5 27 5 20 11 8 20 8z", polygon: "M20 6 34 16 29 33H11L6 16z",
  star: "M20 5l4 11h11l-9 7 4 12-10-8-10 8 4-12-9-7h11z", heart: "M20 34C8 24 5 19 5 14a7.500 7.500 0 0 1 15-1 7.500 7.500 0 0 1 15 1c0 5-3 10-15 20z",
  drop: "M20 5c3 8 10 13 10 20a10 10 0 0 1-20 0c0-7 7-12 10-20z", tag: "M6 16 14 8h12l8 8v16H6zM20 12.500a2.500 2.500 0 1 1 0 5 2.500 2.500 0 0 1 0-5z",
  bar: "M10 14h20a6 6 0 0 1 0 12H10a6 6 0 0 1 0-12z", frame: "M5 8h30v24H5zM10 13v14h20V13z",
} as const;
const forms = Object.keys(FORMS) as (keyof typeof FORMS)[];
const pointed = computed(() => made.value?.form === "polygon" || made.value?.form === "star");
const rounded = computed(() => ["rectangle", "polygon", "star", "tag", "frame"].includes(made.value?.form ?? ""));
/** A shape that nobody has named is called what it is. */
function take(form: (typeof forms)[number]): void {
  const own = job.items.find((item) => item.id === id.value)?.name ?? "";
  const fields = isPlain(own, t(`arrange.shape.${made.value?.form ?? form}`)) ? { name: named(t(`arrange.shape.${form}`)) } : {};
  void job.changeItems({ [id.value]: { made: { form }, ...fields } }, "made");
}
const most = computed(() => Math.max(5, Math.min(made.value?.width_mm ?? 10, made.value?.height_mm ?? 10) / 2));
</script>

<template>
  <div v-if="made" class="group">
    <div class="forms" role="radiogroup" :aria-label="t('arrange.shape.form')">
      <button
        v-for="form in forms" :key="form" type="button" role="radio" :aria-checked="made.form === form" :class="{ on: made.form === form }"
        :aria-label="t(`arrange.shape.${form}`)" :title="t(`arrange.shape.${form}`)" @click="take(form)"
      >
        <svg viewBox="0 0 40 40" width="28" height="28" aria-hidden="true"><path :d="FORMS[form]" fill="currentColor" fill-rule="evenodd" /></svg>
      </button>
    </div>
    <div class="sizes">
      <SizeField :label="t('arrange.shape.width')" :mm="made.width_mm ?? 0" :unit="stage.unit" @settle="settle({ width_mm: $event }, 'sized')" />
      <SizeField :label="t('arrange.shape.height')" :mm="made.height_mm ?? 0" :unit="stage.unit" @settle="settle({ height_mm: $event }, 'sized')" />
      <ColourWell :label="t('arrange.colour')" :value="made.colour ?? '#000000'" @move="move({ colour: $event })" @settle="settle({ colour: $event }, 'coloured')" />
    </div>
    <AppSlider
      v-if="pointed" :label="t(made.form === 'star' ? 'arrange.shape.starPoints' : 'arrange.shape.points')" :value="made.points ?? 5" :min="3" :max="24" :step="1"
      :low="t('arrange.shape.few')" :high="t('arrange.shape.many')" @move="move({ points: $event })" @settle="settle({ points: $event })"
    />
    <AppSlider
      v-if="made.form === 'star'" :label="t('arrange.shape.inner')" :value="made.inner ?? 0.45" :min="0.1" :max="0.95" :step="0.01" :digits="2"
      :low="t('arrange.shape.deep')" :high="t('arrange.shape.shallow')" @move="move({ inner: $event })" @settle="settle({ inner: $event })"
    />
    <AppSlider
      v-if="rounded" :label="t('arrange.shape.corner')" :value="made.corner_mm ?? 0" :min="0" :max="most" :step="0.1" :digits="1" unit="mm"
      :low="t('arrange.shape.sharp')" :high="t('arrange.shape.round')" @move="move({ corner_mm: $event })" @settle="settle({ corner_mm: $event })"
    />
    <AppSlider
      v-if="made.form === 'tag'" :label="t('arrange.shape.hole')" :value="made.hole_mm ?? 5" :min="0" :max="most" :step="0.1" :digits="1" unit="mm"
      :low="t('arrange.letter.small')" :high="t('arrange.letter.large')" @move="move({ hole_mm: $event })" @settle="settle({ hole_mm: $event })"
    />
    <AppSlider
      v-if="made.form === 'frame'" :label="t('arrange.shape.band')" :value="made.band_mm ?? 4" :min="0.2" :max="most" :step="0.1" :digits="1" unit="mm"
      :low="t('arrange.shape.thin')" :high="t('arrange.shape.broad')" @move="move({ band_mm: $event })" @settle="settle({ band_mm: $event })"
    />
  </div>
</template>

<style scoped>
.group { display: grid; gap: 14px; border-top: 1px dashed var(--stitch); padding-top: 12px; }
.forms { display: grid; grid-template-columns: repeat(5, 1fr); gap: 4px; }
.forms button { display: grid; place-items: center; padding: 3px; border: 1px solid var(--line); background: var(--card); color: var(--soft); cursor: pointer; }
.forms button:hover { color: var(--ink); }
.forms button.on { color: var(--seam); border-color: var(--seam); background: var(--paper); }
.sizes { display: grid; grid-template-columns: 1fr 1fr auto; gap: 8px; align-items: end; }
</style>
