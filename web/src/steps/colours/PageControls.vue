<script setup lang="ts">
/** A page of ink: its rules, its pen, and spots beside the writing, ringed on the stage. */
import { computed, onScopeDispose, ref, watchEffect } from "vue";
import { useI18n } from "vue-i18n";

import type { ColoursSettings, PageFacts } from "@/api/types";
import { MARK } from "@/stage/drawMarks";
import { useTools } from "@/stores/tools";
import AppCheck from "@/ui/AppCheck.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppSlider from "@/ui/AppSlider.vue";

const props = defineProps<{ page: PageFacts; settings: ColoursSettings }>();
const emit = defineEmits<{ move: [change: Partial<ColoursSettings>]; settle: [change: Partial<ColoursSettings>] }>();
const { t } = useI18n();
const tools = useTools();
const MOST_LISTED = 12;
const STAYS = "#2f6b4f";
const looked = ref(-1);
const hands = computed(() => (["as_written", "smoother"] as const).map((value) => ({ value, label: t(`page.hands.${value}`) })));
const rules = computed(() => (["leave_out", "keep"] as const).map((value) => ({ value, label: t(`page.speckRules.${value}`) })));
const listed = computed(() => props.page.specks.slice(0, MOST_LISTED));

watchEffect(() => {
  tools.show(
    props.page.specks.map(({ at: [x, y], radius, kept }, i) => {
      const r = Math.max(0.006, 1.6 * radius);
      return {
        kind: "ring",
        points: [{ x: x - r, y: y - r }, { x: x + r, y: y + r }],
        colour: kept ? STAYS : MARK,
        strong: i === looked.value,
        ...(i < MOST_LISTED ? { label: String(i + 1) } : {}),
      };
    }),
  );
});

/** The other of what the rule says, for one spot. */
function toggle([x, y]: [number, number]): void {
  const near = ([ox, oy]: [number, number]): boolean => Math.hypot(ox - x, oy - y) < 1e-3;
  const others = props.settings.other_specks as [number, number][];
  emit("settle", { other_specks: others.some(near) ? others.filter((one) => !near(one)) : [...others, [x, y]] });
}
onScopeDispose(() => tools.show([]));
</script>

<template>
  <p class="soft">{{ page.rules ? t("page.rules", page.rules) : t("page.noRules") }}</p>
  <AppCheck :label="t('page.takeRules')" :value="settings.take_rules" @settle="emit('settle', { take_rules: $event })" />
  <AppChoice :model-value="settings.hand" :label="t('page.hand')" :options="hands" @update:model-value="emit('settle', { hand: $event })" />
  <AppSlider
    :label="t('page.bolder')" :value="settings.bolder_mm" :min="0" :max="2" :step="0.05" :digits="2" unit="mm"
    :low="t('page.asWritten')" :high="t('page.bold')" @move="emit('move', { bolder_mm: $event })" @settle="emit('settle', { bolder_mm: $event })"
  />
  <p class="soft">{{ t("page.thinnest") }}</p>
  <p class="soft">{{ t("page.found", page.specks.length) }}</p>
  <template v-if="page.specks.length">
    <AppChoice
      :model-value="settings.specks" :label="t('page.specks')" :options="rules"
      @update:model-value="emit('settle', { specks: $event, other_specks: [] })"
    />
    <ul>
      <li v-for="({ at, kept }, i) in listed" :key="i" @pointerenter="looked = i" @pointerleave="looked = -1">
        <label>
          <input type="checkbox" :checked="kept" @change="toggle(at)" @focus="looked = i" @blur="looked = -1" />
          <span>{{ t("page.stays", { number: i + 1 }) }}</span>
        </label>
      </li>
    </ul>
    <p v-if="page.specks.length > MOST_LISTED" class="soft">{{ t("page.more", { count: page.specks.length - MOST_LISTED }) }}</p>
  </template>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: 1fr 1fr; gap: 2px 8px; }
li label { display: flex; gap: 6px; align-items: center; padding: 3px 4px; cursor: pointer; font-size: 0.86rem; }
li label:hover { background: var(--card); }
input { accent-color: var(--seam); }
</style>
