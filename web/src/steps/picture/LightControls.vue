<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { PictureSettings } from "@/api/types";
import AppButton from "@/ui/AppButton.vue";
import AppFold from "@/ui/AppFold.vue";
import AppSlider from "@/ui/AppSlider.vue";

const props = defineProps<{ settings: PictureSettings }>();
const emit = defineEmits<{ move: [change: Partial<PictureSettings>]; settle: [change: Partial<PictureSettings>] }>();
const { t } = useI18n();
const AS_IT_CAME = { exposure: 0, contrast: 0, black: 0, white: 255 };
const LEAST_GAP = 5;
const changed = computed(() => Object.entries(AS_IT_CAME).some(([name, value]) => props.settings[name as keyof typeof AS_IT_CAME] !== value));
const black = (value: number): { black: number } => ({ black: Math.min(value, props.settings.white - LEAST_GAP) });
const white = (value: number): { white: number } => ({ white: Math.max(value, props.settings.black + LEAST_GAP) });
</script>

<template>
  <AppFold :title="t('light.title')" name="light" :opened="changed">
    <AppSlider
      :label="t('light.exposure')" :value="settings.exposure" :min="-3" :max="3" :step="0.05" :digits="2"
      :low="t('light.darker')" :high="t('light.lighter')"
      @move="emit('move', { exposure: $event })" @settle="emit('settle', { exposure: $event })"
    />
    <AppSlider
      :label="t('light.contrast')" :value="settings.contrast" :min="-0.9" :max="2" :step="0.05" :digits="2"
      :low="t('light.flatter')" :high="t('light.harder')"
      @move="emit('move', { contrast: $event })" @settle="emit('settle', { contrast: $event })"
    />
    <AppSlider
      :label="t('light.black')" :value="settings.black" :min="0" :max="250" :step="1"
      :low="t('light.asIs')" :high="t('light.more')" @move="emit('move', black($event))" @settle="emit('settle', black($event))"
    />
    <AppSlider
      :label="t('light.white')" :value="settings.white" :min="5" :max="255" :step="1"
      :low="t('light.more')" :high="t('light.asIs')" @move="emit('move', white($event))" @settle="emit('settle', white($event))"
    />
    <AppButton v-if="changed" small look="quiet" @click="emit('settle', AS_IT_CAME)">{{ t("light.back") }}</AppButton>
  </AppFold>
</template>
