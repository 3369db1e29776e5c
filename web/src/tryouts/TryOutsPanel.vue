<script setup lang="ts">
/** Treatments of the open picture side by side, their chart, and the picked one beside the picture. */
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { useErrorWords } from "@/composables/useErrorWords";
import { useJob } from "@/stores/job";
import { useTryOuts, type TryOut } from "@/stores/tryOuts";
import AppButton from "@/ui/AppButton.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";

import SeamCompare from "./SeamCompare.vue";
import TryOutCard from "./TryOutCard.vue";
import WorkChart from "./WorkChart.vue";

const { t } = useI18n();
const router = useRouter();
const job = useJob();
const tries = useTryOuts();
const words = useErrorWords();
const done = computed(() => tries.all.filter((one) => one.tried).length);
watch(() => [job.kept?.id, job.item?.id], () => void tries.open(), { immediate: true });

const ORDERS = ["likeness", "minutes", "made"] as const;
const order = ref<(typeof ORDERS)[number]>("likeness");
const orders = computed(() => ORDERS.map((value) => ({ value, label: t(`tryouts.orders.${value}`) })));
/** Cards stay where they are while some are being made, and under the hand. */
const isOver = ref(false);
const letters = ref<string[]>([]);
const rank = ({ tried }: TryOut): number => (order.value === "likeness" ? -(tried?.likeness ?? -1) : (tried?.minutes ?? Infinity));
watch([() => tries.all, order, isOver], (_, before) => {
  const isChosen = before && order.value !== before[1];
  const own = [...tries.all];
  if (order.value !== "made" && (!tries.left || tries.stopped) && (!isOver.value || isChosen)) own.sort((one, other) => rank(one) - rank(other));
  else if (order.value !== "made") own.sort((one, other) => letters.value.indexOf(one.letter) - letters.value.indexOf(other.letter));
  letters.value = own.map((one) => one.letter);
}, { immediate: true });
const ordered = computed(() => letters.value.flatMap((letter) => tries.all.find((one) => one.letter === letter) ?? []));

function back(): void {
  tries.stop();
  void router.push({ name: "bench", params: { id: job.job?.id } });
}
</script>

<template>
  <section class="panel" :aria-label="t('tryouts.title')">
    <header>
      <h2>{{ t("tryouts.title") }}</h2>
      <p class="soft" role="status">
        {{ t("tryouts.intro", { done, all: tries.all.length }) }}<template v-if="tries.left && !tries.stopped">, {{ t("tryouts.underWay", { left: tries.left }) }}</template>
      </p>
      <span class="room" />
      <AppSelect v-model="order" class="order" :label="t('tryouts.order')" :options="orders" hide-label />
      <AppButton v-if="tries.left" small @click="tries.stopped ? tries.goOn() : tries.stop()">{{ t(tries.stopped ? "tryouts.goOn" : "tryouts.stop") }}</AppButton>
      <AppButton v-if="tries.chosen" small @click="tries.more">{{ t("tryouts.more", { letter: tries.picked }) }}</AppButton>
      <AppButton v-if="tries.chosen && job.pictures.length > 1" small @click="tries.onOthers">{{ t("tryouts.others", { letter: tries.picked }) }}</AppButton>
      <AppButton small @click="back">{{ t("tryouts.open") }}</AppButton>
    </header>
    <AppNotice v-if="tries.error" kind="error" :title="t('errors.title')">
      {{ words(tries.error) }}
      <template #actions><AppButton small @click="tries.open">{{ t("errors.again") }}</AppButton></template>
    </AppNotice>
    <ul class="cards" tabindex="0" @pointerenter="isOver = true" @pointerleave="isOver = false">
      <li v-for="one in ordered" :key="one.letter">
        <TryOutCard :one="one" :picked="one.letter === tries.picked" :beaten="tries.beaten.has(one.letter)" @pick="tries.picked = one.letter" />
      </li>
    </ul>
    <div class="below">
      <WorkChart />
      <SeamCompare />
    </div>
  </section>
</template>

<style scoped>
.panel { display: grid; grid-template-rows: auto minmax(0, 1fr) minmax(180px, 34%); gap: 10px; min-height: 0; padding: 14px 4px 14px 0; }
.panel:has(.notice) { grid-template-rows: auto auto minmax(0, 1fr) minmax(180px, 34%); }
header { display: flex; flex-wrap: wrap; align-items: baseline; gap: 6px 12px; }
h2 { font-size: 22px; }
.room { flex: 1; }
.order { width: 180px; }
.cards { list-style: none; margin: 0; padding: 2px; display: grid; grid-template-columns: repeat(auto-fill, minmax(172px, 1fr)); gap: 10px; overflow-y: auto; align-content: start; }
.cards li, .cards li > * { width: 100%; }
.below { display: grid; grid-template-columns: 1.25fr 1fr; gap: 10px; min-height: 0; }
</style>
