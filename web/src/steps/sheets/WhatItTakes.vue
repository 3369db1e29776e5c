<script setup lang="ts">
/** How much of each stock the sheets take, and what has to be bought. */
import { computed, onMounted } from "vue";
import { useI18n } from "vue-i18n";

import type { UsedStock } from "@/api/types";
import { useSheets } from "@/stores/sheets";
import { useStocks } from "@/stores/stocks";

const { t } = useI18n();
const sheets = useSheets();
const stocks = useStocks();
const used = computed(() => sheets.plan?.used ?? []);

function state(one: UsedStock): string {
  if (!one.stock_id) return "";
  const stock = stocks.drawer.stocks.find(({ id }) => id === one.stock_id);
  if (!stock) return t("sheets.goneFromDrawer");
  return stock.on_hand ? "" : t("sheets.notOnHand");
}
const amount = (one: UsedStock): string =>
  one.length_mm ? t("sheets.ofRoll", { metres: (one.length_mm / 1000).toFixed(2) }) : t("sheets.ofSheets", one.sheets);
const toBuy = computed(() => used.value.filter((one) => state(one)).map((one) => `${one.stock} (${amount(one)})`));
onMounted(() => void stocks.open());
</script>

<template>
  <section v-if="used.length" class="takes" :aria-label="t('sheets.takes')">
    <ul>
      <li v-for="one in used" :key="`${one.stock_id}/${one.stock}`">
        <i :style="{ background: one.colour }" />
        <span class="name">{{ one.stock }} <em v-if="state(one)">{{ state(one) }}</em></span>
        <span class="number">{{ amount(one) }}</span>
        <small class="soft number">{{ t("sheets.area", { cm2: (one.area_mm2 / 100).toFixed(0), waste: Math.round(100 * one.waste) }) }}</small>
      </li>
    </ul>
    <p v-if="toBuy.length"><b>{{ t("stocks.shopping") }}</b> {{ toBuy.join(", ") }}</p>
  </section>
</template>

<style scoped>
.takes { border: 1px solid var(--line); background: var(--card); padding: 8px 10px; display: grid; gap: 6px; }
h3, p { margin: 0; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 6px; }
li { display: grid; grid-template-columns: 16px minmax(0, 1fr) auto; column-gap: 8px; align-items: center; }
i { width: 16px; height: 16px; border: 1px solid var(--edge); }
em { font-style: normal; color: var(--warn); }
small { grid-column: 2 / 4; }
</style>
