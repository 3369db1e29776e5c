<script setup lang="ts">
/** Which material at hand fits each layer; two layers of one material; what is to be bought. */
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Layer, Stock } from "@/api/types";
import { STOCK_KINDS, useStocks } from "@/stores/stocks";
import AppButton from "@/ui/AppButton.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";

import StocksDialog from "./StocksDialog.vue";

const props = defineProps<{ layers: Layer[] }>();
const emit = defineEmits<{ use: [layer: Layer, stock: Stock]; merge: [from: Layer, into: Layer] }>();
const { t } = useI18n();
const stocks = useStocks();
const shown = ref(false);
const kinds = computed(() => (["any", ...STOCK_KINDS] as const).map((value) => ({ value, label: t(`stocks.kinds.${value}`) })));

const rows = computed(() =>
  props.layers.flatMap((layer, i) => {
    const found = stocks.matches?.matches[i];
    const stock = found && stocks.drawer.stocks[found.stock];
    // A backing or a reverse is no colour of any item: it is given its stock where it is made.
    return found && stock && layer.holds.length ? [{ layer, stock, word: t(`stocks.${found.nearness}`), difference: found.difference.toFixed(1) }] : [];
  }),
);
const doubles = computed(() =>
  (stocks.matches?.doubles ?? []).flatMap((numbers) => {
    const [into, from] = numbers.map((number) => props.layers[number]);
    const stock = stocks.drawer.stocks[stocks.matches?.matches[numbers[0] ?? 0]?.stock ?? -1];
    return into?.holds.length && from?.holds.length && stock ? [{ into, from, stock }] : [];
  }),
);

onMounted(() => void stocks.open());
</script>

<template>
  <section class="stocks" :aria-label="t('stocks.title')">
    <h3>{{ t("stocks.title") }}</h3>
    <AppSelect v-model="stocks.kind" :label="t('stocks.kind')" :options="kinds" hide-label />
    <ul v-if="rows.length">
      <li v-for="{ layer, stock, word, difference } in rows" :key="layer.key">
        <span class="pair"><i :style="{ background: layer.colour }" /><i :style="{ background: stock.colour }" /></span>
        <span class="words">
          <b>{{ stock.name }}</b>
          <small class="soft">{{ t("stocks.for", { name: layer.name }) }} · {{ word }} ({{ difference }})</small>
        </span>
        <AppButton
          v-if="layer.colour.toLowerCase() !== stock.colour" small look="quiet" :aria-label="t('stocks.useFor', { stock: stock.name, name: layer.name })"
          @click="emit('use', layer, stock)"
        >{{ t("stocks.use") }}</AppButton>
      </li>
    </ul>
    <p v-else class="soft">{{ t(stocks.drawer.stocks.length ? "stocks.noneOfKind" : "stocks.empty") }}</p>
    <AppNotice v-for="{ into, from, stock } in doubles" :key="from.key" kind="note">
      {{ t("stocks.double", { one: into.name, other: from.name, stock: stock.name }) }}
      <template #actions><AppButton small @click="emit('merge', from, into)">{{ t("palette.mergeThem") }}</AppButton></template>
    </AppNotice>
    <p v-if="stocks.matches?.missing.length"><b>{{ t("stocks.shopping") }}</b> {{ stocks.matches.missing.join(", ") }}</p>
    <div><AppButton small @click="shown = true">{{ t("stocks.open") }}</AppButton></div>
    <StocksDialog v-if="shown" v-model="shown" />
  </section>
</template>

<style scoped>
.stocks { border: 1px solid var(--line); background: var(--card); padding: 8px 10px; display: grid; gap: 8px; }
.stocks h3, .stocks p { margin: 0; }
ul { list-style: none; margin: 0; padding: 0; }
li { display: grid; grid-template-columns: auto minmax(0, 1fr) auto; gap: 8px; align-items: center; padding: 4px 0; }
.pair { display: flex; }
.pair i { width: 16px; height: 26px; border: 1px solid var(--edge); }
.pair i + i { border-left: 0; }
.words { display: grid; line-height: 1.25; min-width: 0; }
</style>
