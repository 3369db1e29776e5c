<script setup lang="ts">
/** The outline of what stays: moved, smoothed, its fuzz and small parts; and the reverse choice. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { BackgroundSettings } from "@/api/types";
import AppCheck from "@/ui/AppCheck.vue";
import AppFold from "@/ui/AppFold.vue";
import AppSlider from "@/ui/AppSlider.vue";

const props = defineProps<{ settings: BackgroundSettings }>();
const emit = defineEmits<{ move: [change: Partial<BackgroundSettings>]; settle: [change: Partial<BackgroundSettings>] }>();
const { t } = useI18n();
const largest = computed(() => props.settings.parts_kept === "largest");
</script>

<template>
  <AppFold :title="t('edges.title')" name="edges" :opened="Boolean(settings.edge_mm || settings.edge_smooth_mm || settings.reverse)">
    <AppSlider
      :label="t('edges.move')" :value="settings.edge_mm" :min="-3" :max="3" :step="0.05" :digits="2" unit="mm"
      :low="t('edges.in')" :high="t('edges.out')" @move="emit('move', { edge_mm: $event })" @settle="emit('settle', { edge_mm: $event })"
    />
    <AppSlider
      :label="t('edges.smooth')" :value="settings.edge_smooth_mm" :min="0" :max="5" :step="0.05" :digits="2" unit="mm"
      :low="t('edges.asIs')" :high="t('edges.soft')"
      @move="emit('move', { edge_smooth_mm: $event })" @settle="emit('settle', { edge_smooth_mm: $event })"
    />
    <AppSlider
      :label="t('edges.smallest')" :value="settings.smallest_part_mm2" :min="0" :max="400" :step="1" unit="mm²"
      :low="t('edges.every')" :high="t('edges.large')"
      @move="emit('move', { smallest_part_mm2: $event })" @settle="emit('settle', { smallest_part_mm2: $event })"
    />
    <AppCheck :label="t('edges.largest')" :value="largest" @settle="emit('settle', { parts_kept: $event ? 'largest' : 'all' })" />
    <AppCheck :label="t('edges.halo')" :value="settings.halo" @settle="emit('settle', { halo: $event })" />
    <AppCheck :label="t('edges.reverse')" :value="settings.reverse" @settle="emit('settle', { reverse: $event })" />
  </AppFold>
</template>
