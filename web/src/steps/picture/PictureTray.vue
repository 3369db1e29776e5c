<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useStepControl } from "@/composables/useStepControl";
import { useSizeControl } from "@/composables/useSizeControl";
import { toUnit, fromUnit } from "@/core/units";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSlider from "@/ui/AppSlider.vue";

import FrameControls from "./FrameControls.vue";
import LightControls from "./LightControls.vue";
import OriginControls from "./OriginControls.vue";

const { t } = useI18n();
const { settings, move, settle } = useStepControl("picture");
const job = useJob();
const { width, unit, measured, tryWidth, setWidth, setMeasured, setNatural, isNatural } = useSizeControl();
const facts = computed(() => job.facts?.picture);
const perMm = computed(() => (facts.value ? 1 / facts.value.mm_per_px : 0));
const FEWEST_PX_PER_MM = 2.5;
const animation = computed(() => job.findings.find((finding) => finding.code === "animation"));
const reduced = computed(() => job.findings.find((finding) => finding.code === "reduced"));
const units = [{ value: "mm" as const, label: "mm" }, { value: "in" as const, label: "in" }];
const whats = computed(() => [
  { value: "artwork" as const, label: t("size.artwork") },
  { value: "picture" as const, label: t("size.picture") },
]);
</script>

<template>
  <p v-if="facts" class="soft told">
    {{ t("picture.intro", { format: facts.format, width: facts.width_px, height: facts.height_px }) }}
    {{ t(perMm < FEWEST_PX_PER_MM ? "picture.few" : "picture.enough", { count: perMm.toFixed(1) }) }}
  </p>
  <AppNotice v-if="reduced" kind="note">{{ t("findings.reduced", reduced.details) }}</AppNotice>
  <AppNotice v-if="animation" kind="note">{{ t("findings.animation", animation.details) }}</AppNotice>
  <AppSlider
    :label="t('picture.width')"
    :value="toUnit(width, unit)"
    :min="unit === 'mm' ? 10 : 0.4"
    :max="unit === 'mm' ? 600 : 24"
    :step="unit === 'mm' ? 0.5 : 0.05"
    :digits="unit === 'mm' ? 1 : 2"
    :unit="unit"
    ratio
    :low="t('picture.smaller')"
    :high="t('picture.larger')"
    @move="tryWidth(fromUnit($event, unit))"
    @settle="setWidth(fromUnit($event, unit))"
  />
  <AppChoice v-model="unit" :label="t('picture.unit')" :options="units" />
  <AppChoice :model-value="measured" :label="t('picture.measured')" :options="whats" @update:model-value="setMeasured" />
  <AppButton v-if="!isNatural" @click="setNatural">{{ t("picture.natural") }}</AppButton>
  <template v-if="settings">
    <FrameControls :settings="settings" @move="move" @settle="settle" />
    <LightControls :settings="settings" @move="move" @settle="settle" />
    <OriginControls />
  </template>
</template>
