<script setup lang="ts">
/** The cloths a make is for: its own, and variants of which each leaves other layers or tones to the cloth. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Layer, Variant } from "@/api/types";
import { useMakeControl } from "@/composables/useStepControl";
import { withNames } from "@/core/layerRecords";
import { useJob } from "@/stores/job";
import { useLayers } from "@/stores/layers";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppCheck from "@/ui/AppCheck.vue";
import AppIcon from "@/ui/AppIcon.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppSlider from "@/ui/AppSlider.vue";
import AppText from "@/ui/AppText.vue";
import ColourWell from "@/ui/ColourWell.vue";

const props = defineProps<{ layers: Layer[] }>();
const { t } = useI18n();
const job = useJob();
const looked = useLayers();
const stage = useStage();
const { settings, settle } = useMakeControl("layers");
const variants = computed(() => settings.value?.variants ?? []);
const withins = computed(() => (["none", "frame", "ellipse", "outline"] as const).map((value) => ({ value, label: t(`layers.withins.${value}`) })));
const own = computed(() => props.layers.filter(({ id }) => id !== "backing" && id !== "reverse"));

async function reverse(): Promise<void> {
  await job.addOpposite();
  look(settings.value?.variants.at(-1)?.id ?? "");
}
function look(id: string): void {
  looked.cloth = id;
  stage.first = "made_up";
  stage.second = "variant";
}
const change = (id: string, part: Partial<Variant>): void => settle({ variants: variants.value.map((one) => (one.id === id ? { ...one, ...part } : one)) });
const isBare = (variant: Variant, layer: Layer): boolean => layer.id !== "" && variant.bare.includes(layer.id);

function leave(variant: Variant, at: number, bare: boolean): void {
  const { records, names } = withNames(own.value, { records: settings.value?.records ?? [] });
  const name = names[at] ?? "";
  const rest = variant.bare.filter((one) => one !== name);
  settle({ records, variants: variants.value.map((one) => (one.id === variant.id ? { ...one, bare: bare ? [...rest, name] : rest } : one)) });
}

/** The tones of each photograph that has a scale of them. */
const scales = computed(() => (job.result?.items ?? []).flatMap(({ id, facts }) => (facts?.colours.tones ? [{ item: id, colours: facts.colours.tones.colours }] : [])));
const tonesOf = (variant: Variant, item: string): readonly number[] => variant.tones.find((one) => one.item === item)?.tones ?? [];

function leaveTone(variant: Variant, item: string, tone: number): void {
  const now = tonesOf(variant, item);
  const tones = now.includes(tone) ? now.filter((one) => one !== tone) : [...now, tone].sort((a, b) => a - b);
  change(variant.id, { tones: [...variant.tones.filter((one) => one.item !== item), { item, tones }] });
}
</script>

<template>
  <template v-if="settings">
    <p class="soft">{{ t("layers.clothHint") }}</p>
    <div class="cloth own">
      <AppText class="name" :label="t('layers.clothName')" :value="settings.cloth || t('layers.ownCloth')" :longest="40" @settle="settle({ cloth: $event })" />
      <small class="soft">{{ t("layers.thisOne") }}</small>
    </div>
    <div v-for="variant in variants" :key="variant.id" class="cloth">
      <div class="row">
        <ColourWell :label="t('layers.clothColour', { name: variant.cloth })" :value="variant.base" @settle="change(variant.id, { base: $event })" />
        <AppText class="name" :label="t('layers.clothName')" :value="variant.cloth" :longest="40" @settle="change(variant.id, { cloth: $event })" />
        <AppButton small :pressed="looked.chosen?.id === variant.id && stage.second === 'variant'" @click="look(variant.id)">{{ t("layers.seeIt") }}</AppButton>
        <button type="button" class="bin" :aria-label="t('layers.dropCloth', { name: variant.cloth })" :title="t('layers.dropCloth', { name: variant.cloth })" @click="settle({ variants: variants.filter(({ id }) => id !== variant.id) })">
          <AppIcon name="bin" />
        </button>
      </div>
      <template v-if="looked.chosen?.id === variant.id">
        <div v-for="{ item, colours } in scales" :key="item" class="tones" role="group" :aria-label="t('layers.tonesBare')">
          <span>{{ t("layers.tonesBare") }}</span>
          <button
            v-for="(colour, tone) in colours" :key="tone" type="button" :style="{ background: colour }" :class="{ bare: tonesOf(variant, item).includes(tone) }"
            :aria-pressed="tonesOf(variant, item).includes(tone)" :aria-label="t('layers.tone', { number: tone + 1 })" :title="t('layers.tone', { number: tone + 1 })"
            @click="leaveTone(variant, item, tone)"
          />
        </div>
        <template v-if="!scales.length && variant.reverse.within === 'none'">
          <b>{{ t("layers.leftBare") }}</b>
          <AppCheck v-for="(layer, i) in own" :key="layer.id || layer.key" :label="layer.name" :value="isBare(variant, layer)" @settle="leave(variant, i, $event)" />
        </template>
        <AppSelect
          v-if="!scales.length" :model-value="variant.reverse.within" :label="t('layers.otherPart')" :options="withins"
          @update:model-value="change(variant.id, { reverse: { ...variant.reverse, within: $event } })"
        />
        <AppSlider
          v-if="variant.reverse.within !== 'none'" :label="t('layers.backingMargin')" :value="variant.reverse.margin_mm" :min="0.5" :max="60" :step="0.5" :digits="1" unit="mm" ratio
          :low="t('layers.narrow')" :high="t('layers.wide')" @settle="change(variant.id, { reverse: { ...variant.reverse, margin_mm: $event } })"
        />
      </template>
    </div>
    <AppNotice v-if="looked.failed" kind="error">{{ looked.failed }}</AppNotice>
    <div><AppButton small :disabled="!job.result || job.unsent > 0 || variants.length >= 8" @click="reverse">{{ t("layers.reverse") }}</AppButton></div>
  </template>
</template>

<style scoped>
.cloth { border: 1px solid var(--line); background: var(--card); padding: 6px 8px; display: grid; gap: 8px; }
.own { grid-template-columns: minmax(0, 1fr) auto; align-items: center; }
.row { display: grid; grid-template-columns: 34px minmax(0, 1fr) auto auto; gap: 6px; align-items: center; }
.name { border-color: transparent; background: transparent; font-weight: 700; padding: 1px 5px; width: 100%; box-shadow: none; text-overflow: ellipsis; }
.name:hover, .name:focus { border-color: var(--line); background: var(--paper); }
.bin { border: 0; background: none; padding: 3px; display: grid; cursor: pointer; }
.tones { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
.tones span { flex-basis: 100%; }
.tones button { width: 30px; height: 26px; border: 1px solid var(--edge); cursor: pointer; }
.tones button.bare { outline: 2px solid var(--seam); outline-offset: 2px; opacity: 0.55; }
</style>
