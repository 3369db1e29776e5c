<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useStepControl } from "@/composables/useStepControl";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSlider from "@/ui/AppSlider.vue";
import ColourWell from "@/ui/ColourWell.vue";

const { t } = useI18n();
const job = useJob();
const { settings, move, settle } = useStepControl("background");
const facts = computed(() => job.result?.facts.background);
const modes = computed(() => (["auto", "keep", "colour"] as const).map((value) => ({ value, label: t(`background.modes.${value}`) })));
const shownColour = computed(() => {
  const [r, g, b] = facts.value?.colour ?? [255, 255, 255];
  return settings.value?.colour ?? `#${((1 << 24) | (r << 16) | (g << 8) | b).toString(16).slice(1)}`;
});
const hasReach = computed(() => facts.value && ["plain", "shaded", "cleared_all"].includes(facts.value.kind));

function setMode(mode: "auto" | "keep" | "colour"): void {
  settle(mode === "colour" ? { mode, colour: shownColour.value } : { mode });
}
</script>

<template>
  <p v-if="facts" class="soft">{{ t(`background.${facts.kind}`) }}</p>
  <AppChoice :model-value="settings?.mode ?? 'auto'" :label="t('background.mode')" :options="modes" @update:model-value="setMode" />
  <label v-if="settings?.mode === 'colour'" class="row">
    <ColourWell :label="t('background.colour')" :value="shownColour" @move="move({ colour: $event })" @settle="settle({ colour: $event })" />
    <span>{{ t("background.colour") }}</span>
  </label>
  <AppSlider
    v-if="hasReach && facts"
    :label="t('background.reach')"
    :value="settings?.reach ?? facts.reach"
    :min="0.4"
    :max="40"
    :step="0.2"
    :digits="1"
    ratio
    :low="t('background.less')"
    :high="t('background.more')"
    @move="move({ reach: $event })"
    @settle="settle({ reach: $event })"
  />
  <AppButton v-if="settings?.reach != null" @click="settle({ reach: null })">{{ t("background.auto") }}</AppButton>
  <AppNotice v-if="facts?.enclosed.length" kind="note">{{ t("background.enclosed", facts.enclosed.length) }}</AppNotice>
</template>

<style scoped>
.row { display: flex; align-items: center; gap: 10px; font-weight: 700; }
</style>
