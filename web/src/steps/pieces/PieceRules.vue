<script setup lang="ts">
/** Rules for all layers of the picture, with a count before anything goes. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Finding, PiecesSettings } from "@/api/types";
import { useStepControl } from "@/composables/useStepControl";
import { usePieces } from "@/stores/pieces";
import AppCheck from "@/ui/AppCheck.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSlider from "@/ui/AppSlider.vue";

defineProps<{ notes: Finding[] }>();
const { t } = useI18n();
const pieces = usePieces();
const { settings, move, settle } = useStepControl("pieces");

type Rule = "smallest_mm2" | "smallest_window_mm2" | "thinnest_mm" | "join_mm" | "thicken_mm" | "bridge_mm";
interface Row {
  rule: Rule;
  max: number;
  step: number;
  unit: string;
}
const RULES: readonly Row[] = [
  { rule: "smallest_mm2", max: 100, step: 0.5, unit: "mm²" },
  { rule: "smallest_window_mm2", max: 100, step: 0.5, unit: "mm²" },
  { rule: "thinnest_mm", max: 5, step: 0.1, unit: "mm" },
  { rule: "thicken_mm", max: 5, step: 0.1, unit: "mm" },
  { rule: "join_mm", max: 5, step: 0.1, unit: "mm" },
  { rule: "bridge_mm", max: 10, step: 0.5, unit: "mm" },
];
const fills = computed(() => (["around", "open"] as const).map((value) => ({ value, label: t(`pieces.fills.${value}`) })));

/** What a rule says where nobody has said anything. */
function byItself(rule: Rule): number {
  const [piece, window] = pieces.facts?.least ?? [0, 0];
  return rule === "smallest_mm2" ? piece : rule === "smallest_window_mm2" ? window : 0;
}

function tried(change: Partial<PiecesSettings>): void {
  pieces.trial = change;
  move(change);
}
function kept(change: Partial<PiecesSettings>): void {
  pieces.trial = null;
  settle(change);
}
const count = computed(() => {
  const areas = pieces.trial?.smallest_mm2 ?? pieces.trial?.smallest_window_mm2;
  if (areas !== undefined) return t("pieces.would", { count: pieces.going.length, area: areas }, pieces.going.length);
  const marks = pieces.facts?.marks.length ?? 0;
  if (pieces.trial) return t("pieces.places", marks);
  return marks ? t("pieces.marked", marks) : "";
});
</script>

<template>
  <p v-if="count" class="count" aria-live="polite">{{ count }}</p>
  <template v-if="settings">
    <AppSlider
      v-for="{ rule, max, step, unit } in RULES"
      :key="rule"
      :label="t(`pieces.rules.${rule}`)"
      :value="settings[rule] ?? byItself(rule)"
      :min="0"
      :max="max"
      :step="step"
      :digits="1"
      :unit="unit"
      :low="t(`pieces.low.${rule}`)"
      :high="t(`pieces.high.${rule}`)"
      @move="tried({ [rule]: $event })"
      @settle="kept({ [rule]: $event })"
    />
    <AppChoice :model-value="settings.fill" :label="t('pieces.fill')" :options="fills" @update:model-value="kept({ fill: $event })" />
    <AppCheck :label="t('pieces.telling')" :value="settings.spare_telling" @settle="kept({ spare_telling: $event })" />
    <AppCheck :label="t('pieces.onlyLargest')" :value="settings.keep === 'largest'" @settle="kept({ keep: $event ? 'largest' : 'all' })" />
  </template>
  <AppNotice v-for="{ code, details, value } in notes" :key="`${code}/${details.rule ?? ''}`" kind="note">
    {{ t(`findings.${code}`, { ...details, value, rule: details.rule ? t(`pieces.rules.${details.rule}`) : "" }, Number(details.count ?? 1)) }}
  </AppNotice>
</template>

<style scoped>
.count { margin: 0; padding: 6px 10px; border-left: 4px solid var(--warn); background: var(--card); font-weight: 700; }
</style>
