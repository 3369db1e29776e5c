<script setup lang="ts">
/** The stand-in cutter: which sheet, how far it is, what comes free and how that differs from what was meant. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { PACES, useCutter } from "@/stores/cutter";
import { useSheets } from "@/stores/sheets";
import AppButton from "@/ui/AppButton.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";

const { t } = useI18n();
const cutter = useCutter();
const sheets = useSheets();
const options = computed(() => (sheets.plan?.sheets ?? []).map(({ stock, mirrored }, i) => ({ value: String(i + 1), label: `${i + 1} · ${stock}${mirrored ? t("sheets.commaMirrored") : ""}` })));
const sheet = computed({ get: () => String(cutter.sheet), set: (value) => (cutter.sheet = Number(value)) });
const done = computed(() => cutter.done);
const free = computed(() => done.value?.areas.filter(({ kind }) => kind === "piece").length ?? 0);
const waste = computed(() => (done.value?.areas.length ?? 0) - free.value);
const clock = (seconds: number): string => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;
const slower = computed(() => [...PACES].reverse().find((pace) => pace < cutter.pace));
const faster = computed(() => PACES.find((pace) => pace > cutter.pace));
</script>

<template>
  <p class="soft">{{ t("cutter.intro") }}</p>
  <AppSelect v-if="options.length > 1" v-model="sheet" :label="t('cutter.sheet')" :options="options" />
  <template v-if="done">
    <div class="play">
      <input
        type="range" min="0" :max="done.seconds" step="0.05" :value="cutter.time" :aria-label="t('cutter.time')" :aria-valuetext="clock(cutter.time)"
        @input="cutter.playing = false; cutter.seek(Number(($event.target as HTMLInputElement).value))"
      />
      <span class="number">{{ clock(cutter.time) }} / {{ clock(done.seconds) }}</span>
    </div>
    <div class="keys">
      <AppButton small :title="t('cutter.backKey')" :aria-label="t('cutter.back')" @click="cutter.step(-1)">◂</AppButton>
      <AppButton look="main" :title="t('cutter.playKey')" @click="cutter.play()">{{ t(cutter.playing ? "cutter.pause" : cutter.isCut ? "cutter.replay" : "cutter.play") }}</AppButton>
      <AppButton small :title="t('cutter.onKey')" :aria-label="t('cutter.on')" @click="cutter.step(1)">▸</AppButton>
      <span class="pace">
        <AppButton small :disabled="!slower" :aria-label="t('cutter.slower')" @click="slower && (cutter.pace = slower)">−</AppButton>
        <span class="number">{{ t("cutter.pace", { count: cutter.pace }) }}</span>
        <AppButton small :disabled="!faster" :aria-label="t('cutter.faster')" @click="faster && (cutter.pace = faster)">+</AppButton>
      </span>
    </div>
    <AppButton :title="t('cutter.weedKey')" @click="cutter.weed()">{{ t(cutter.weeded >= 1 ? "cutter.unweed" : "cutter.weed") }}</AppButton>
    <dl>
      <div><dt>{{ t("cutter.free") }}</dt><dd>{{ t("cutter.pieces", free) }}</dd></div>
      <div><dt>{{ t("cutter.waste") }}</dt><dd>{{ t("cutter.windows", waste) }}</dd></div>
      <div><dt>{{ t("cutter.cut") }}</dt><dd class="number">{{ t("cutter.metres", { count: (done.cut_mm / 1000).toFixed(2) }) }}</dd></div>
      <div><dt>{{ t("cutter.travel") }}</dt><dd class="number">{{ t("cutter.metres", { count: (done.travel_mm / 1000).toFixed(2) }) }}</dd></div>
      <div v-if="done.print_mm !== null"><dt>{{ t("cutter.print") }}</dt><dd class="number">{{ t("cutter.mm", { count: done.print_mm.toFixed(2) }) }}</dd></div>
    </dl>
    <AppNotice v-if="done.differences.length" kind="error" :title="t('cutter.differs', done.differences.length)">
      <span v-for="(one, i) in done.differences.slice(0, 5)" :key="i" class="line">
        {{ t(`cutter.differences.${one.code}`, { x: one.at[0].toFixed(1), y: one.at[1].toFixed(1), by: one.by.toFixed(2) }) }}
      </span>
    </AppNotice>
    <AppNotice v-else kind="note" :title="t('cutter.asMeant')">{{ t("cutter.within", { count: Math.max(0.001, done.farthest).toFixed(3) }) }}</AppNotice>
    <p v-if="done.print_mm !== null" class="soft">{{ t("cutter.printed") }}</p>
  </template>
</template>

<style scoped>
.play { display: grid; grid-template-columns: minmax(0, 1fr) auto; gap: 10px; align-items: center; }
.play input { accent-color: var(--seam); width: 100%; }
.keys { display: flex; gap: 6px; align-items: center; }
.pace { margin-left: auto; display: flex; gap: 4px; align-items: center; }
.pace .number { min-width: 34px; text-align: center; }
dl { margin: 0; display: grid; gap: 4px; }
dl div { display: flex; justify-content: space-between; }
dt { color: var(--soft); }
dd { margin: 0; font-weight: 700; }
.line { display: block; }
</style>
