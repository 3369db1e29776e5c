<script setup lang="ts">
/** Pieces: what would be cut, put right by hand, by rules, or in a list. */
import { computed, onBeforeUnmount, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { PieceFacts } from "@/api/types";
import { useErrorWords } from "@/composables/useErrorWords";
import { isWindow } from "@/core/pieces";
import { useJob } from "@/stores/job";
import { usePieces } from "@/stores/pieces";
import { useTools } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";

import PieceHand from "./PieceHand.vue";
import PieceList from "./PieceList.vue";
import PieceRules from "./PieceRules.vue";

const { t } = useI18n();
const job = useJob();
const pieces = usePieces();
const tools = useTools();
const words = useErrorWords();
const ways = computed(() => (["hand", "rules", "list"] as const).map((value) => ({ value, label: t(`pieces.ways.${value}`) })));

const intro = computed(() => {
  const here = pieces.here.flatMap((i) => pieces.rows[i] ?? []);
  const windows = here.filter(isWindow).length;
  const said = [t("pieces.count", here.length - windows)];
  if (windows) said.push(t("pieces.windows", windows));
  const off = (job.result?.layers ?? []).reduce((sum, layer) => sum + layer.pieces, 0);
  const built = job.items.length === 1 && off !== here.length - windows ? ` ${t("pieces.off", off)}` : "";
  return `${said.join(t("pieces.and"))}.${built}`;
});
const CODES = ["small_kept", "gaps_joined", "parts_thickened", "pieces_melted", "rule_would_take_all", "nothing_to_bridge", "bridged"];
const notes = computed(() => job.findings.filter(({ code }) => CODES.includes(code)));
const missed = computed(() => pieces.facts?.missed.length ?? 0);
/** Suggestions that were put aside. */
const aside = ref<string[]>([]);
const suggestions = computed(() => pieces.picked.length ? [] : (pieces.facts?.suggestions ?? []).filter(({ kind }) => !aside.value.includes(kind)));

type Suggestion = PieceFacts["suggestions"][number];
function show({ places }: Suggestion): void {
  pieces.pickAt(places);
  pieces.way = "hand";
  const first = pieces.picked[0];
  if (first !== undefined) pieces.showRow(first);
}
async function take(one: Suggestion): Promise<void> {
  pieces.pickAt(one.places);
  await pieces.drop(one.kind === "specks" ? "around" : "open");
}
onBeforeUnmount(() => {
  tools.take(null);
  pieces.pick(-1, false);
});
</script>

<template>
  <p v-if="pieces.list" class="soft" aria-live="polite">{{ intro }} {{ t("pieces.intro") }}</p>
  <p v-else-if="!pieces.error" class="soft" role="status">{{ t("pieces.looking") }}</p>
  <AppNotice v-if="pieces.error" kind="error">{{ words(pieces.error) }}</AppNotice>
  <AppNotice v-for="one in suggestions" :key="one.kind" kind="note">
    {{ t(`pieces.suggest.${one.kind}`, one.places.length) }}
    <template #actions>
      <AppButton small @click="show(one)">{{ t("pieces.suggest.show") }}</AppButton>
      <AppButton small @click="take(one)">{{ t("pieces.suggest.take") }}</AppButton>
      <AppButton small look="quiet" @click="aside.push(one.kind)">{{ t("pieces.suggest.leave") }}</AppButton>
    </template>
  </AppNotice>
  <AppNotice v-if="missed" kind="note">
    {{ t("pieces.missed", missed) }}
    <template #actions><AppButton small @click="pieces.takeOutMissed()">{{ t("pieces.forget") }}</AppButton></template>
  </AppNotice>
  <AppChoice v-model="pieces.way" :label="t('pieces.way')" :options="ways" />
  <PieceHand v-if="pieces.way === 'hand'" />
  <PieceRules v-else-if="pieces.way === 'rules'" :notes="notes" />
  <PieceList v-else />
</template>
