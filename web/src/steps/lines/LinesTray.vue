<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { LinesPart, LinesSettings } from "@/api/types";
import { useStepControl } from "@/composables/useStepControl";
import { useJob } from "@/stores/job";
import { useStrokes } from "@/stores/strokes";
import AppSlider from "@/ui/AppSlider.vue";

import HandTools from "./HandTools.vue";
import PartsPicker from "./PartsPicker.vue";
import StrokeControls from "./StrokeControls.vue";

const { t } = useI18n();
const job = useJob();
const { settings, move: moveStep, settle: settleStep } = useStepControl("lines");
type Looks = Pick<LinesPart, "closeness_mm" | "corner_deg" | "smoothing_mm" | "simplify_mm">;
/** The marked part the settings are for; -1 for the whole picture. */
const part = ref(-1);
const looks = computed<Looks | undefined>(() => settings.value?.parts[part.value] ?? settings.value);

function within(change: Partial<Looks>): Partial<LinesSettings> {
  if (part.value < 0) return change;
  return { parts: (settings.value?.parts ?? []).map((own, i) => (i === part.value ? { ...own, ...change } : own)) };
}
const move = (change: Partial<Looks>): void => moveStep(within(change));
const settle = (change: Partial<Looks>): void => settleStep(within(change));
const facts = computed(() => job.facts?.lines);
const strokes = useStrokes();
/** Whether the picture is a drawing whose strokes have middles worth asking for. */
const inStrokes = computed(() => strokes.facts.length > 0 || ["line-drawing", "handwriting"].includes(job.facts?.colours.kind ?? ""));
const nodes = computed(() => (job.result?.layers ?? []).reduce((sum, layer) => sum + layer.nodes, 0));
</script>

<template>
  <p v-if="facts" class="soft told">
    <template v-if="strokes.facts.length">{{ t("strokes.intro", strokes.facts.length) }} {{ strokes.lengths }}</template>
    <template v-else>
      {{ t(settings?.corrections.length ? "lines.introByHand" : "lines.intro", { nodes, length: ((job.result?.cut_length_mm ?? 0) / 1000).toFixed(2), deviation: facts.deviation_mm.toFixed(3) }) }}
      {{ t("lines.straight", { straight: facts.straight, segments: facts.segments }) }}
    </template>
    {{ facts.repaired ? t("lines.repaired", facts.repaired) : "" }}
  </p>
  <StrokeControls v-if="settings && inStrokes" :settings="settings" @move="moveStep" @settle="settleStep" />
  <HandTools v-if="!strokes.facts.length" />
  <template v-if="settings && looks">
    <PartsPicker v-if="!strokes.facts.length" v-model="part" :settings="settings" @settle="settleStep" />
    <AppSlider
      :label="t('lines.closeness')"
      :value="looks.closeness_mm"
      :min="0.005"
      :max="2"
      :step="0.005"
      :digits="3"
      unit="mm"
      ratio
      :low="t('lines.close')"
      :high="t('lines.loose')"
      @move="move({ closeness_mm: $event })"
      @settle="settle({ closeness_mm: $event })"
    />
    <AppSlider
      :label="t('lines.corner')"
      :value="looks.corner_deg"
      :min="10"
      :max="80"
      :step="1"
      unit="°"
      :low="t('lines.keen')"
      :high="t('lines.round')"
      @move="move({ corner_deg: $event })"
      @settle="settle({ corner_deg: $event })"
    />
    <AppSlider
      v-if="!strokes.facts.length"
      :label="t('lines.smoothing')"
      :value="looks.smoothing_mm"
      :min="0"
      :max="3"
      :step="0.05"
      :digits="2"
      unit="mm"
      :low="t('lines.asIs')"
      :high="t('lines.even')"
      @move="move({ smoothing_mm: $event })"
      @settle="settle({ smoothing_mm: $event })"
    />
    <AppSlider
      v-if="!strokes.facts.length"
      :label="t('lines.simplify')"
      :value="looks.simplify_mm"
      :min="0"
      :max="2"
      :step="0.02"
      :digits="2"
      unit="mm"
      :low="t('lines.stay')"
      :high="t('lines.fewest')"
      @move="move({ simplify_mm: $event })"
      @settle="settle({ simplify_mm: $event })"
    />
  </template>
</template>
