<script setup lang="ts">
/** What kind of picture it is, and the choice to say otherwise. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { ColourFacts, ColoursSettings } from "@/api/types";
import AppSelect from "@/ui/AppSelect.vue";

const props = defineProps<{ facts: ColourFacts | undefined; settings: ColoursSettings }>();
const emit = defineEmits<{ settle: [change: Partial<ColoursSettings>] }>();
const { t } = useI18n();
const KINDS = ["auto", "clip-art", "photo", "line-drawing", "handwriting", "screenshot"] as const;
/** Without a result, since this kind gives none, the choice is there all the same. */
const told = computed(() => (props.facts ? t("kinds.toldSo", { kind: t(`kinds.${props.facts.kind}`) }) : t("kinds.auto")));
const kinds = computed(() =>
  KINDS.map((value) => ({ value, label: value === "auto" && props.settings.kind === "auto" ? told.value : t(`kinds.${value}`) })),
);
</script>

<template>
  <AppSelect :model-value="settings.kind" :label="t('kindWords.is')" :options="kinds" @update:model-value="emit('settle', { kind: $event })" />
</template>
