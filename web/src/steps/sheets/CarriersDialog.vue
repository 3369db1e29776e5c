<script setup lang="ts">
/** Mats, rolls and cards as a table: those that come with the program, and the person's own, which can be changed. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Carrier } from "@/api/types";
import { formatSize, fromUnit, toUnit } from "@/core/units";
import { useSheets } from "@/stores/sheets";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppDialog from "@/ui/AppDialog.vue";
import AppNotice from "@/ui/AppNotice.vue";

const SIDES = ["width_mm", "height_mm", "usable_width_mm", "usable_height_mm"] as const;
const KINDS = ["mat", "roll", "card"] as const;
const shown = defineModel<boolean>({ required: true });
const { t } = useI18n();
const sheets = useSheets();
const stage = useStage();
const own = computed(() => sheets.carriers.own);
const digits = computed(() => (stage.unit === "mm" ? 1 : 2));

function change(at: number, part: Partial<Carrier>): void {
  void sheets.keepCarriers(own.value.map((one, i) => (i === at ? { ...one, ...part } : one)));
}
function rename(at: number, event: Event): void {
  const field = event.target as HTMLInputElement;
  if (field.value.trim()) change(at, { name: field.value.trim() });
  else field.value = own.value[at]?.name ?? "";
}
function resize(at: number, side: (typeof SIDES)[number], event: Event): void {
  const field = event.target as HTMLInputElement;
  const mm = fromUnit(Number(field.value.replace(",", ".")), stage.unit);
  if (mm > 0 && Number.isFinite(mm)) change(at, { [side]: mm });
  else field.value = toUnit(own.value[at]?.[side] ?? 0, stage.unit).toFixed(digits.value);
}
function add(): void {
  const fresh: Carrier = { name: t("sheets.freshCarrier", { number: own.value.length + 1 }), kind: "mat", width_mm: 300, height_mm: 400, usable_width_mm: 290, usable_height_mm: 390 };
  void sheets.keepCarriers([...own.value, fresh]);
}
</script>

<template>
  <AppDialog v-model="shown" :title="t('sheets.carriers')" wide>
    <AppNotice v-if="sheets.error" kind="error">{{ sheets.error.message }}</AppNotice>
    <div class="scroll">
      <table>
        <thead>
          <tr>
            <th v-for="column in ['name', 'kind', ...SIDES] as const" :key="column" scope="col">{{ t(`sheets.columns.${column}`, { unit: stage.unit }) }}</th>
            <th><span class="visually-hidden">{{ t("stocks.out") }}</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in sheets.carriers.shipped" :key="one.name" class="shipped">
            <td>{{ one.name }}</td>
            <td>{{ t(`sheets.kinds.${one.kind}`) }}</td>
            <td colspan="2" class="number">{{ formatSize(one.width_mm, one.height_mm, stage.unit) }}</td>
            <td colspan="2" class="number">{{ formatSize(one.usable_width_mm, one.usable_height_mm, stage.unit) }}</td>
            <td />
          </tr>
          <tr v-for="(one, i) in own" :key="i">
            <td><input :value="one.name" :aria-label="t('sheets.nameOf', { number: i + 1 })" maxlength="80" @change="rename(i, $event)" /></td>
            <td>
              <select :value="one.kind" :aria-label="t('sheets.kindOf', { name: one.name })" @change="change(i, { kind: ($event.target as HTMLSelectElement).value as Carrier['kind'] })">
                <option v-for="kind in KINDS" :key="kind" :value="kind">{{ t(`sheets.kinds.${kind}`) }}</option>
              </select>
            </td>
            <td v-for="side in SIDES" :key="side">
              <input class="short number" :value="toUnit(one[side], stage.unit).toFixed(digits)" :aria-label="`${t(`sheets.columns.${side}`, { unit: stage.unit })}: ${one.name}`" @change="resize(i, side, $event)" />
            </td>
            <td><AppButton small look="quiet" @click="sheets.keepCarriers(own.filter((_, k) => k !== i))">{{ t("stocks.out") }}</AppButton></td>
          </tr>
        </tbody>
      </table>
    </div>
    <template #actions><AppButton @click="add">{{ t("sheets.addCarrier") }}</AppButton><AppButton look="main" @click="shown = false">{{ t("size.done") }}</AppButton></template>
  </AppDialog>
</template>

<style scoped>
.scroll { max-height: 56vh; overflow: auto; }
table { border-collapse: collapse; width: 100%; }
th { text-align: left; font-size: 12.5px; padding: 4px 6px; position: sticky; top: 0; background: var(--card); }
td { padding: 3px 6px; border-top: 1px solid var(--line); }
.shipped td { color: var(--soft); }
input, select { font: inherit; border: 1px solid var(--line); background: var(--paper); padding: 3px 6px; width: 100%; color: var(--ink); }
.short { width: 76px; text-align: right; }
</style>
