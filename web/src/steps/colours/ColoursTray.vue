<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useStepControl } from "@/composables/useStepControl";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppSlider from "@/ui/AppSlider.vue";

import PaletteList from "./PaletteList.vue";

const { t } = useI18n();
const job = useJob();
const { settings, move, settle } = useStepControl("colours");
const facts = computed(() => job.result?.facts.colours);
const small = computed(() => facts.value?.palette.filter((entry) => entry.small).length ?? 0);
const intro = computed(() => {
  const now = facts.value;
  if (!now) return "";
  if (now.method === "ink") return t("colours.ink");
  if (now.method === "tones") return t("colours.tones", { count: now.palette.length });
  const found = t("colours.found", now.palette.length);
  return small.value ? `${found} ${t("colours.smallOnes", small.value)}` : found;
});
const KINDS = ["auto", "clip-art", "photo", "line-drawing", "handwriting", "screenshot"] as const;
const kinds = computed(() => KINDS.map((value) => ({ value, label: t(`kinds.${value}`) })));
const nameOf = (key: unknown): string => facts.value?.palette.find((entry) => entry.key === key)?.name ?? String(key);
const notes = computed(() =>
  (job.result?.notes ?? []).flatMap(({ code, values }) => {
    if (code === "fewer_colours") return [t("notes.fewer_colours", values)];
    if (code === "near_alike") return [t("notes.near_alike", { one: nameOf(values.one), other: nameOf(values.other) })];
    return [];
  }),
);
const smallestMax = 100;
</script>

<template>
  <p class="soft">{{ intro }}</p>
  <PaletteList v-if="facts" :palette="facts.palette" :layers="job.result?.layers ?? []" />
  <template v-if="settings && facts">
    <AppSlider
      v-if="facts.method !== 'ink'"
      :label="t('colours.count')"
      :value="settings.count ?? facts.palette.length"
      :min="1"
      :max="Math.max(12, facts.found)"
      :step="1"
      :low="t('colours.fewer')"
      :high="t('colours.more')"
      @move="move({ count: $event })"
      @settle="settle({ count: $event })"
    />
    <AppButton v-if="settings.count != null" @click="settle({ count: null })">{{ t("colours.auto") }}</AppButton>
    <AppSlider
      :label="t('colours.smallest')"
      :value="settings.smallest_mm2"
      :min="0"
      :max="smallestMax"
      :step="0.5"
      :digits="1"
      unit="mm²"
      :low="t('colours.everything')"
      :high="t('colours.large')"
      @move="move({ smallest_mm2: $event })"
      @settle="settle({ smallest_mm2: $event })"
    />
    <p v-if="facts.absorbed" class="soft">{{ t("colours.absorbed", facts.absorbed) }}</p>
    <AppSelect :model-value="settings.kind" :label="t('colours.kind')" :options="kinds" @update:model-value="settle({ kind: $event })" />
  </template>
  <AppNotice v-for="(note, i) in notes.slice(0, 3)" :key="i" kind="note">{{ note }}</AppNotice>
</template>
