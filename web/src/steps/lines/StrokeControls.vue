<script setup lang="ts">
/** Drawings in strokes: filled or by their middles, and what each stroke was taken for. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { LinesSettings } from "@/api/types";
import { ROLE_COLOURS, ROLES, type Role } from "@/core/strokes";
import { useJob } from "@/stores/job";
import { useStrokes } from "@/stores/strokes";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSlider from "@/ui/AppSlider.vue";

const props = defineProps<{ settings: LinesSettings }>();
const emit = defineEmits<{ move: [change: Partial<LinesSettings>]; settle: [change: Partial<LinesSettings>] }>();
const { t } = useI18n();
const job = useJob();
const strokes = useStrokes();
const chosen = computed<"filled" | "centre">(() => (strokes.facts.length ? "centre" : "filled"));
const ways = computed(() => (["filled", "centre"] as const).map((value) => ({ value, label: t(`strokes.ways.${value}`) })));
const meanings = computed(() => (["auto", "none"] as const).map((value) => ({ value, label: t(`strokes.meanings.${value}`) })));
const counts = computed(() => ROLES.map((role) => ({ role, count: strokes.facts.filter((own) => own.role === role).length })));
const inner = computed(() => strokes.facts.filter(({ role, outline, read }) => role === "cut" && read === "cut" && !outline));
const open = computed(() => job.findings.find(({ code }) => code === "outline_open"));
const missed = computed(() => job.findings.find(({ code }) => code === "strokes_missed"));
const picked = computed(() => strokes.pickedFacts);
const length = computed(() => picked.value.reduce((sum, own) => sum + own.length_mm, 0));
const isAll = (role: Role): boolean => picked.value.length > 0 && picked.value.every((own) => own.role === role);
</script>

<template>
  <AppChoice :model-value="chosen" :label="t('strokes.way')" :options="ways" @update:model-value="emit('settle', { drawn: $event })" />
  <template v-if="strokes.facts.length">
    <AppChoice :model-value="props.settings.score" :label="t('strokes.meaning')" :options="meanings" @update:model-value="emit('settle', { score: $event })" />
    <ul class="legend" :aria-label="t('strokes.what')">
      <li v-for="{ role, count } in counts" :key="role">
        <button type="button" :disabled="!count" @click="strokes.pickAll(role)">
          <span class="swatch" :class="role" :style="{ borderColor: ROLE_COLOURS[role] }" />
          {{ t(`strokes.roles.${role}`) }}<b class="number">{{ count }}</b>
        </button>
      </li>
    </ul>
    <AppNotice v-if="open" kind="note">{{ t("findings.outline_open", Number(open.details.count)) }}</AppNotice>
    <AppNotice v-if="inner.length" kind="note">
      {{ t("findings.inner_lines", inner.length) }}
      <template #actions><AppButton small @click="strokes.become('score', inner)">{{ t("strokes.foldThem") }}</AppButton></template>
    </AppNotice>
    <AppNotice v-if="missed" kind="note">{{ t("findings.strokes_missed", Number(missed.details.count)) }}</AppNotice>
    <section class="picked" :aria-label="t('strokes.picked')">
      <p class="soft">{{ picked.length ? t("strokes.pickedSo", { count: picked.length, length: length.toFixed(1) }, picked.length) : t("strokes.none") }}</p>
      <div v-if="picked.length" class="buttons">
        <AppButton v-for="role in ROLES" :key="role" small :look="isAll(role) ? 'main' : 'plain'" @click="strokes.become(role)">{{ t(`strokes.become.${role}`) }}</AppButton>
      </div>
    </section>
    <AppSlider
      :label="t('strokes.gaps')" :value="props.settings.close_gaps_mm" :min="0" :max="10" :step="0.1" :digits="1" unit="mm"
      :low="t('strokes.stayOpen')" :high="t('strokes.joined')"
      @move="emit('move', { close_gaps_mm: $event })" @settle="emit('settle', { close_gaps_mm: $event })"
    />
    <AppButton v-if="props.settings.roles.length" small look="quiet" @click="emit('settle', { roles: [] })">{{ t("strokes.asFound") }}</AppButton>
  </template>
</template>

<style scoped>
.legend { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: 1fr 1fr; gap: 4px; }
.legend button { display: flex; gap: 8px; align-items: center; width: 100%; padding: 5px 8px; border: 1px solid var(--line); background: var(--card); cursor: pointer; font: inherit; font-size: 0.88rem; }
.legend button:disabled { opacity: 0.55; cursor: default; }
.legend b { margin-left: auto; }
.swatch { width: 22px; border-top: 3px solid; }
.swatch.score { border-top-style: dashed; }
.swatch.leave { border-top-style: dotted; }
.picked p { margin: 0 0 6px; }
.buttons { display: flex; flex-wrap: wrap; gap: 6px; }
</style>
