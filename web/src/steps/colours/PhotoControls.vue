<script setup lang="ts">
/** What a photograph becomes, with the two or three controls that matter to that. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { ColourFacts, ColoursSettings } from "@/api/types";
import AppCheck from "@/ui/AppCheck.vue";
import AppFold from "@/ui/AppFold.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppSlider from "@/ui/AppSlider.vue";

import InkChoices from "./InkChoices.vue";
import ToneStrip from "./ToneStrip.vue";

const props = defineProps<{ facts: ColourFacts; settings: ColoursSettings }>();
const emit = defineEmits<{ move: [change: Partial<ColoursSettings>]; settle: [change: Partial<ColoursSettings>] }>();
const { t } = useI18n();
const TREATMENTS = ["colours", "lightness", "dark", "line_shade", "stencil", "silhouette"] as const;
const MOST = 12;
const treatments = computed(() => TREATMENTS.map((value) => ({ value, label: t(`photo.treatments.${value}`) })));
const treatment = computed(() => props.settings.treatment);
const counted = computed(() => ["colours", "lightness", "line_shade"].includes(treatment.value));
const layered = computed(() => treatment.value === "colours" || treatment.value === "lightness");
const inked = computed(() => ["dark", "line_shade", "stencil"].includes(treatment.value));

/** How many there are by nature, where nothing was said. */
const count = computed(() => props.settings.count ?? (treatment.value === "line_shade" ? 2 : 5));

function become(value: ColoursSettings["treatment"]): void {
  emit("settle", { treatment: value, thresholds: [], bare: null });
}
</script>

<template>
  <AppSelect :model-value="treatment" :label="t('photo.treatment')" :options="treatments" @update:model-value="become" />
  <p class="soft">{{ t(`photo.hints.${treatment}`) }}</p>
  <ToneStrip v-if="facts.tones" :tones="facts.tones" :settings="settings" @move="emit('move', $event)" @settle="emit('settle', $event)" />
  <AppSlider
    v-if="counted" :label="t('colours.count')" :value="count" :min="treatment === 'colours' ? 1 : 2" :max="MOST" :step="1"
    :low="t('colours.fewer')" :high="t('colours.more')"
    @move="emit('move', { count: $event, thresholds: [], bare: null })" @settle="emit('settle', { count: $event, thresholds: [], bare: null })"
  />
  <AppSlider
    v-if="inked" :label="t('photo.dark')" :value="settings.dark_share" :min="3" :max="70" :step="1" unit="%"
    :low="t('photo.lines')" :high="t('photo.heavy')" @move="emit('move', { dark_share: $event })" @settle="emit('settle', { dark_share: $event })"
  />
  <InkChoices v-if="treatment === 'colours'" :choices="facts.choices" :settings="settings" @settle="emit('settle', $event)" />
  <AppSlider
    :label="t('photo.fine')" :value="settings.fine_mm" :min="0.1" :max="3" :step="0.05" :digits="2" unit="mm" ratio
    :low="t('photo.fineEnd')" :high="t('photo.calmEnd')" @move="emit('move', { fine_mm: $event })" @settle="emit('settle', { fine_mm: $event })"
  />
  <AppFold :title="t('photo.finer')" name="photo-finer">
    <AppCheck v-if="layered" :label="t('photo.drawn')" :value="settings.drawn_top" @settle="emit('settle', { drawn_top: $event })" />
    <AppSlider
      v-if="treatment === 'lightness' && settings.drawn_top" :label="t('photo.dark')" :value="settings.dark_share" :min="3" :max="70" :step="1" unit="%"
      :low="t('photo.lines')" :high="t('photo.heavy')" @move="emit('move', { dark_share: $event })" @settle="emit('settle', { dark_share: $event })"
    />
    <AppSlider
      :label="t('photo.balance')" :value="settings.balance_mm" :min="0" :max="80" :step="1" unit="mm"
      :low="t('photo.asItIs')" :high="t('photo.evened')" @move="emit('move', { balance_mm: $event })" @settle="emit('settle', { balance_mm: $event })"
    />
    <AppSlider
      v-if="treatment === 'stencil'" :label="t('photo.bridge')" :value="settings.bridge_mm" :min="0.5" :max="15" :step="0.1" :digits="1" unit="mm" ratio
      :low="t('photo.narrow')" :high="t('photo.wide')" @move="emit('move', { bridge_mm: $event })" @settle="emit('settle', { bridge_mm: $event })"
    />
    <AppSlider
      :label="t('photo.width')" :value="settings.smallest_width_mm" :min="0" :max="5" :step="0.1" :digits="1" unit="mm"
      :low="t('photo.anything')" :high="t('photo.sturdy')"
      @move="emit('move', { smallest_width_mm: $event })" @settle="emit('settle', { smallest_width_mm: $event })"
    />
    <slot />
  </AppFold>
</template>
