<script setup lang="ts">
/** All findings of one kind: what they are, each with its place and measure, and what mends one or all. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { shortNumber } from "@/core/units";
import { repairOfAll, type Group, type Listed } from "@/core/check";
import { useCheck } from "@/stores/check";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";

const MOST = 3;
const props = defineProps<{ group: Group }>();
const { t, te } = useI18n();
const check = useCheck();
const job = useJob();
const all = ref(false);
const whole = computed(() => repairOfAll(props.group));
const stem = computed(() => `check.codes.${props.group.code}`);
const single = computed(() => props.group.findings.length === 1);
const shown = computed(() => (all.value ? props.group.findings : props.group.findings.filter((one, i) => i < MOST || one.number === check.picked)));
const swatch = (one: Listed): string | undefined => job.result?.layers.find(({ name }) => name === one.finding.details.layer)?.colour;
function words({ finding }: Listed): string {
  const { value, limit, details } = finding;
  const told = Object.fromEntries(Object.entries({ value, limit, ...details }).map(([name, own]) => [name, typeof own === "number" ? shortNumber(own) : own]));
  return t(`${stem.value}.row`, told);
}
const open = (one: Listed): boolean => single.value || one.number === check.picked;
</script>

<template>
  <section class="group" :class="group.severity" :aria-label="t(`${stem}.title`)">
    <header>
      <h3>{{ t(`${stem}.title`) }} <span v-if="!single" class="number">{{ group.findings.length }}</span></h3>
      <!-- The pointer is watched from around the button: one that is disabled hears of nothing. What comes to lie under it is not looked at. -->
      <span v-if="whole" @pointermove="check.look(whole.edits)" @pointerleave="check.lookAway()">
        <AppButton small :disabled="!check.isFresh" @click="check.mend(whole.code, whole.edits)">
          {{ t("check.all", { what: t(`check.repairs.${whole.code}`), count: whole.count }) }}
        </AppButton>
      </span>
    </header>
    <p v-if="te(`${stem}.why`)" class="soft">{{ t(`${stem}.why`) }}</p>
    <ul>
      <li v-for="one in shown" :key="one.number" :class="{ on: one.number === check.picked }">
        <button type="button" class="row" :aria-pressed="one.number === check.picked" @click="check.pick(one.number)">
          <i v-if="swatch(one)" :style="{ background: swatch(one) }" />
          <span>{{ words(one) }}</span>
        </button>
        <div v-if="open(one)" class="do">
          <span v-for="repair in one.repairs" :key="repair.code" @pointermove="check.look(repair.edits)" @pointerleave="check.lookAway()">
            <AppButton small :disabled="repair.edits.length > 0 && !check.isFresh" @click="check.apply(repair)">{{ t(`check.repairs.${repair.code}`) }}</AppButton>
          </span>
          <AppButton small look="quiet" @click="check.ignore(one)">{{ t("check.ignore") }}</AppButton>
        </div>
      </li>
    </ul>
    <AppButton v-if="group.findings.length > shown.length" small look="quiet" @click="all = true">{{ t("check.more", { count: group.findings.length - shown.length }) }}</AppButton>
  </section>
</template>

<style scoped>
.group { border: 1px solid var(--line); border-left: 4px solid var(--seam); background: var(--card); padding: 8px 10px; display: grid; gap: 4px; }
.group.note { border-left-color: var(--stitch); }
header { display: flex; justify-content: space-between; gap: 8px; align-items: center; }
h3 { font-size: 14.5px; }
h3 span { color: var(--soft); font-weight: 600; }
ul { list-style: none; margin: 0; padding: 0; }
li { border-top: 1px dashed var(--stitch); }
li.on { background: var(--tint); }
.row { display: flex; gap: 8px; align-items: center; width: 100%; border: 0; background: none; text-align: left; padding: 5px 4px; cursor: pointer; font-size: 13px; }
.row:hover { background: var(--hover); }
.on .row:hover { background: none; }
.row i { flex: none; width: 14px; height: 14px; border: 1px solid var(--edge); }
.do { display: flex; flex-wrap: wrap; gap: 6px; padding: 2px 4px 7px; }
</style>
