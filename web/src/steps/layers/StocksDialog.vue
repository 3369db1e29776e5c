<script setup lang="ts">
/** The drawer as a table: every change of a line is kept at once. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { stocksCsvUrl } from "@/api/stocks";
import type { Stock } from "@/api/types";
import { fromUnit, toUnit } from "@/core/units";
import { useStage } from "@/stores/stage";
import { STOCK_KINDS, useStocks } from "@/stores/stocks";
import AppButton from "@/ui/AppButton.vue";
import AppDialog from "@/ui/AppDialog.vue";
import AppNotice from "@/ui/AppNotice.vue";
import ColourWell from "@/ui/ColourWell.vue";

const shown = defineModel<boolean>({ required: true });
const { t } = useI18n();
const stocks = useStocks();
const stage = useStage();
const file = ref<HTMLInputElement>();
const lines = computed(() => stocks.drawer.stocks);
const size = (mm: number): number => Number(toUnit(mm, stage.unit).toFixed(stage.unit === "mm" ? 0 : 2));

function change(at: number, part: Partial<Stock>): void {
  void stocks.keep(lines.value.map((stock, i) => (i === at ? { ...stock, ...part } : stock)));
}

function rename(at: number, event: Event): void {
  const field = event.target as HTMLInputElement;
  if (field.value.trim()) change(at, { name: field.value.trim() });
  else field.value = lines.value[at]?.name ?? "";
}

function resize(at: number, side: "width_mm" | "height_mm", event: Event): void {
  const field = event.target as HTMLInputElement;
  const mm = fromUnit(Number(field.value.replace(",", ".")), stage.unit);
  if (mm > 0 && Number.isFinite(mm)) change(at, { [side]: mm });
  else field.value = String(size(lines.value[at]?.[side] ?? 0));
}

function add(): void {
  const fresh: Stock = {
    name: t("stocks.fresh"), kind: stocks.kind === "any" ? "adhesive vinyl" : stocks.kind, colour: "#808080",
    width_mm: 305, height_mm: 305, on_hand: true, finish: "", patterned: false, id: "",
  };
  void stocks.keep([...lines.value, fresh]);
}

function bringIn(event: Event): void {
  const field = event.target as HTMLInputElement;
  const [chosen] = field.files ?? [];
  if (chosen) void stocks.bringIn(chosen);
  field.value = "";
}
/** What went into makes that were taken along. */
function used({ id }: Stock): string {
  const own = stocks.drawer.used[id ?? ""];
  if (!own) return "–";
  const area = stage.unit === "mm" ? `${Math.round(own.taken_mm2 / 100)} cm²` : `${Math.round(own.taken_mm2 / 25.4 ** 2)} in²`;
  return t("stocks.used", { area, count: own.makes }, own.makes);
}
const text = (event: Event): string => (event.target as HTMLInputElement).value;
</script>

<template>
  <AppDialog v-model="shown" :title="t('stocks.drawer')" wide>
    <AppNotice v-if="stocks.error" kind="error">{{ stocks.error }}</AppNotice>
    <div class="scroll">
      <table>
        <thead>
          <tr>
            <th v-for="column in ['colour', 'name', 'sort', 'width', 'height', 'finish', 'patterned', 'onHand', 'used'] as const" :key="column" scope="col">
              {{ t(`stocks.columns.${column}`, { unit: stage.unit }) }}
            </th>
            <th><span class="visually-hidden">{{ t("stocks.out") }}</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(stock, i) in lines" :key="i">
            <td><ColourWell :label="t('stocks.colourOf', { name: stock.name })" :value="stock.colour" @settle="change(i, { colour: $event })" /></td>
            <td><input class="name" :value="stock.name" maxlength="80" :aria-label="t('stocks.nameOf', { number: i + 1 })" @change="rename(i, $event)" /></td>
            <td>
              <select :value="stock.kind" :aria-label="t('stocks.kindOf', { name: stock.name })" @change="change(i, { kind: text($event) as Stock['kind'] })">
                <option v-for="kind in STOCK_KINDS" :key="kind" :value="kind">{{ t(`stocks.kinds.${kind}`) }}</option>
              </select>
            </td>
            <td><input class="size" inputmode="decimal" :value="size(stock.width_mm)" :aria-label="t('stocks.widthOf', { name: stock.name })" @change="resize(i, 'width_mm', $event)" /></td>
            <td><input class="size" inputmode="decimal" :value="size(stock.height_mm)" :aria-label="t('stocks.heightOf', { name: stock.name })" @change="resize(i, 'height_mm', $event)" /></td>
            <td><input class="finish" :value="stock.finish" maxlength="80" :aria-label="t('stocks.finishOf', { name: stock.name })" @change="change(i, { finish: text($event) })" /></td>
            <td class="middle">
              <input type="checkbox" :checked="stock.patterned" :aria-label="t('stocks.isPatterned', { name: stock.name })" @change="change(i, { patterned: !stock.patterned })" />
            </td>
            <td class="middle">
              <input type="checkbox" :checked="stock.on_hand" :aria-label="t('stocks.onHand', { name: stock.name })" @change="change(i, { on_hand: !stock.on_hand })" />
            </td>
            <td class="number used">{{ used(stock) }}</td>
            <td><AppButton small look="quiet" :aria-label="t('stocks.outOf', { name: stock.name })" @click="stocks.keep(lines.filter((_, k) => k !== i))">{{ t("stocks.out") }}</AppButton></td>
          </tr>
        </tbody>
      </table>
      <p v-if="!lines.length" class="soft">{{ t("stocks.empty") }}</p>
    </div>
    <template #actions>
      <AppButton small @click="add">{{ t("stocks.add") }}</AppButton>
      <AppButton small @click="file?.click()">{{ t("stocks.bringIn") }}</AppButton>
      <a class="link" :href="stocksCsvUrl" download="stocks.csv">{{ t("stocks.takeOut") }}</a>
      <input ref="file" type="file" accept=".csv,text/csv" class="visually-hidden" tabindex="-1" :aria-label="t('stocks.bringIn')" @change="bringIn" />
    </template>
  </AppDialog>
</template>

<style scoped>
.scroll { max-height: 55vh; overflow: auto; }
table { border-collapse: collapse; width: 100%; font-size: 0.9rem; }
th { text-align: left; position: sticky; top: 0; background: var(--card); padding: 4px 6px; }
td { padding: 3px 6px; border-top: 1px solid var(--line); }
input, select { font: inherit; padding: 3px 6px; border: 1px solid var(--line); border-radius: 3px; background: var(--paper); }
.name { width: 150px; }
.size { width: 64px; }
.finish { width: 84px; }
.middle { text-align: center; }
.used { white-space: nowrap; }
.link { font-weight: 700; color: var(--ink); align-self: center; padding: 4px 9px; }
</style>
