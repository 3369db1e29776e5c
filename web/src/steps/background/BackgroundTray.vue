<script setup lang="ts">
import { computed, onScopeDispose } from "vue";
import { useI18n } from "vue-i18n";

import type { BackgroundSettings } from "@/api/types";
import { useStepControl } from "@/composables/useStepControl";
import { CLEARED_ON } from "@/core/course";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTools } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppCheck from "@/ui/AppCheck.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppSlider from "@/ui/AppSlider.vue";
import ColourWell from "@/ui/ColourWell.vue";

import CutOuts from "./CutOuts.vue";
import EdgeControls from "./EdgeControls.vue";
import EnclosedSpots from "./EnclosedSpots.vue";
import TouchTools from "./TouchTools.vue";

type Mode = BackgroundSettings["mode"];
const { t } = useI18n();
const job = useJob();
const stage = useStage();
const tools = useTools();
const { settings, move, settle } = useStepControl("background");
const facts = computed(() => job.facts?.background);
const MODES: Mode[] = ["auto", "border", "subject", "colour", "keep"];
const modes = computed(() => MODES.map((value) => ({ value, label: t(`background.modes.${value}`) })));
const grounds = computed(() => CLEARED_ON.map((value) => ({ value, label: t(`background.seenOn.${value}`) })));
const shownColour = computed(() => {
  const [r, g, b] = facts.value?.colour ?? [255, 255, 255];
  return settings.value?.colour ?? `#${((1 << 24) | (r << 16) | (g << 8) | b).toString(16).slice(1)}`;
});
const hasReach = computed(() => facts.value && ["plain", "shaded", "cleared_all"].includes(facts.value.found));
const mayHaveShadow = computed(() => facts.value?.has_shadow || settings.value?.shadow === false);
const second = computed(() => facts.value?.runner_up as Mode | null | undefined);

function setMode(mode: Mode): void {
  settle(mode === "colour" ? { mode, colour: shownColour.value } : { mode });
}

onScopeDispose(() => {
  tools.take(null);
  tools.show([]);
});
</script>

<template>
  <p v-if="facts" class="soft told">
    {{ t(`background.${facts.found}`) }} <template v-if="facts.kind === 'by_hand'">{{ t("background.by_hand") }}</template>
  </p>
  <div class="pair">
    <AppSelect :model-value="settings?.mode ?? 'auto'" :label="t('background.mode')" :options="modes" @update:model-value="setMode" />
    <AppButton v-if="second && second !== settings?.mode && !(second === 'subject' && facts?.cutouts.length)" small look="quiet" @click="setMode(second)">
      {{ t("background.instead", { mode: t(`background.modes.${second}`) }) }}
    </AppButton>
  </div>
  <CutOuts v-if="settings && facts?.cutouts.length" :cutouts="facts.cutouts" :chosen="facts.cutout" @settle="settle" />
  <label v-if="settings?.mode === 'colour'" class="row">
    <ColourWell :label="t('background.colour')" :value="shownColour" @move="move({ colour: $event })" @settle="settle({ colour: $event })" />
    <span>{{ t("background.colour") }}</span>
  </label>
  <div v-if="hasReach && facts" class="pair">
    <AppSlider
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
    <AppButton v-if="settings?.reach != null" small look="quiet" @click="settle({ reach: null })">{{ t("background.auto") }}</AppButton>
  </div>
  <template v-if="settings">
    <div v-if="mayHaveShadow" class="pair">
      <AppCheck :label="t('background.shadow')" :value="settings.shadow" @settle="settle({ shadow: $event })" />
      <span v-if="settings.shadow" class="soft">{{ t("background.shadowWent") }}</span>
    </div>
    <EnclosedSpots v-if="facts?.enclosed.length" :settings="settings" :spots="facts.enclosed" :one-colour="facts.one_colour" @settle="settle" />
    <TouchTools :settings="settings" :all-kept="facts?.found === 'not_plain' || facts?.found === 'kept'" @settle="settle" />
    <AppNotice v-if="facts?.outside" kind="note">{{ t("background.outside", facts.outside) }}</AppNotice>
    <EdgeControls :settings="settings" @move="move" @settle="settle" />
  </template>
  <AppChoice v-model="stage.clearedOn" :label="t('background.seen')" :options="grounds" />
</template>

<style scoped>
.row { display: flex; align-items: center; gap: 10px; font-weight: 700; }
.pair { display: grid; gap: 4px; justify-items: start; }
.pair > :first-child { width: 100%; }
</style>
