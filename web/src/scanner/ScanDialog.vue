<script setup lang="ts">
/** The scanner: a first look at its glass, the area that is wanted, and how finely it is seen. */
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import { ApiError } from "@/api/client";
import { getGlass, lookUrl, putOnGlass, scan, takeOffGlass } from "@/api/scanner";
import type { Glass } from "@/api/types";
import { useErrorWords } from "@/composables/useErrorWords";
import { between, enoughFor, isTooMuch, pixelsOf, suiting, type Area } from "@/core/scanning";
import { formatLength, formatSize } from "@/core/units";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppDialog from "@/ui/AppDialog.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSelect from "@/ui/AppSelect.vue";
import SizeField from "@/ui/SizeField.vue";

import GlassView from "./GlassView.vue";

const ASKEW = 0.007; // of its longer side: how far an original that lies askew reaches beyond itself
const EDGE_MM = 0.3; // of paper left out, too
const shown = defineModel<boolean>({ required: true });
const emit = defineEmits<{ scanned: [file: File] }>();
const { t } = useI18n();
const stage = useStage();
const words = useErrorWords();
const glass = ref<Glass | null>(null);
const looks = ref(0);
const area = ref<Area | null>(null);
const dpi = ref("300");
const look = ref<"colour" | "grey">("colour");
const busy = ref(false);
const error = ref<ApiError | null>(null);
const chooser = ref<HTMLInputElement>();

const dpis = computed(() => (glass.value?.dpis ?? []).map((value) => ({ value: String(value), label: `${value} dpi` })));
const ways = computed(() => (["colour", "grey"] as const).map((value) => ({ value, label: t(`scanner.${value}`) })));
const tooMuch = computed(() => area.value !== null && glass.value !== null && isTooMuch(area.value, Number(dpi.value), glass.value.most_px));
const told = computed(() => {
  if (!area.value || !glass.value) return t("scanner.draw");
  const [width, height] = pixelsOf(area.value, Number(dpi.value));
  const what = { size: formatSize(area.value.width, area.value.height, stage.unit), dpi: dpi.value, width, height };
  if (tooMuch.value) return t("scanner.tooMuch", { ...what, millions: Math.round((width * height) / 1e6), most: Math.round(glass.value.most_px / 1e6) });
  return t("scanner.enough", { ...what, make: formatLength(enoughFor(area.value, Number(dpi.value)), stage.unit), unit: stage.unit });
});

async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
  error.value = null;
  busy.value = true;
  try {
    return await work();
  } catch (reason) {
    error.value = reason instanceof ApiError ? reason : new ApiError("defect", String(reason));
    return undefined;
  } finally {
    busy.value = false;
  }
}
function see(now: Glass | undefined): void {
  if (!now) return;
  glass.value = now;
  looks.value++;
}
/** draft: while it is drawn. */
function take(next: Area, draft = false): void {
  area.value = next;
  if (!draft && glass.value) dpi.value = String(suiting(next, glass.value.dpis, glass.value.most_px));
}
/** What is on an original, without the edge of its paper. */
const within = ({ x, y, width, height }: Area, on: Glass): Area => {
  const edge = EDGE_MM + (ASKEW * Math.max(width, height)) / 2;
  return between({ x: x + edge, y: y + edge }, { x: x + width - edge, y: y + height - edge }, on);
};
const isTaken = (one: Area): boolean => glass.value !== null && JSON.stringify(within(one, glass.value)) === JSON.stringify(area.value);
function type(change: Partial<Area>): void {
  if (!area.value || !glass.value) return;
  const { x, y, width, height } = { ...area.value, ...change };
  take(between({ x, y }, { x: x + width, y: y + height }, glass.value));
}
async function put(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement;
  const files = [...(input.files ?? [])];
  input.value = "";
  for (const file of files) see(await attempt(() => putOnGlass(file)));
}
async function go(): Promise<void> {
  const wanted = area.value;
  if (!wanted) return;
  const file = await attempt(() => scan(wanted, Number(dpi.value), look.value === "grey"));
  if (!file) return;
  shown.value = false;
  emit("scanned", file);
}
onMounted(async () => see(await attempt(getGlass)));
</script>

<template>
  <AppDialog v-model="shown" :title="t('scanner.title')" wide>
    <div v-if="glass" class="scanner">
      <GlassView :glass="glass" :look="lookUrl(looks)" :area="area" @draw="take($event, true)" @drawn="take($event)" />
      <div class="side">
        <p class="soft">{{ t("scanner.lead") }}</p>
        <ul>
          <li v-for="one in glass.originals" :key="one.name">
            <AppButton small :pressed="isTaken(one)" @click="take(within(one, glass))">{{ one.name }}</AppButton>
            <span class="soft number">{{ formatSize(one.width, one.height, stage.unit) }}</span>
            <AppButton v-if="one.own" small look="quiet" :aria-label="t('scanner.takeOff', { name: one.name })" @click="attempt(() => takeOffGlass(one.name)).then(see)">{{ t("scanner.off") }}</AppButton>
          </li>
        </ul>
        <div><AppButton small look="quiet" @click="chooser?.click()">{{ t("scanner.put") }}</AppButton></div>
        <input ref="chooser" type="file" accept="image/*,.heic,.heif" multiple class="visually-hidden" tabindex="-1" :aria-label="t('scanner.put')" @change="put" />
        <div v-if="area" class="four">
          <SizeField :label="t('scanner.x')" :mm="area.x" :unit="stage.unit" @settle="type({ x: $event })" />
          <SizeField :label="t('scanner.y')" :mm="area.y" :unit="stage.unit" @settle="type({ y: $event })" />
          <SizeField :label="t('scanner.width')" :mm="area.width" :unit="stage.unit" @settle="type({ width: $event })" />
          <SizeField :label="t('scanner.height')" :mm="area.height" :unit="stage.unit" @settle="type({ height: $event })" />
        </div>
        <AppSelect v-model="dpi" :label="t('scanner.dpi')" :options="dpis" />
        <AppChoice v-model="look" :label="t('scanner.seen')" :options="ways" />
        <p role="status" :class="{ warn: tooMuch }">{{ told }}</p>
      </div>
    </div>
    <AppNotice v-if="error" kind="error">{{ words(error) }}</AppNotice>
    <template #actions>
      <AppButton look="quiet" @click="shown = false">{{ t("app.cancel") }}</AppButton>
      <AppButton look="main" :disabled="!area || tooMuch || busy" @click="go">{{ t(busy ? "scanner.busy" : "scanner.scan") }}</AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.scanner { display: grid; grid-template-columns: auto minmax(240px, 1fr); gap: 20px; }
.side { display: grid; gap: 10px; align-content: start; min-width: 0; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 5px; max-height: 150px; overflow-y: auto; }
li { display: flex; gap: 8px; align-items: center; }
.four { display: grid; grid-template-columns: repeat(4, minmax(0, 1fr)); gap: 8px; }
.warn { color: var(--warn); font-weight: 700; }
</style>
