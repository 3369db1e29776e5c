<script setup lang="ts">
/** By hand on a photograph: light and detail painted where they are needed, places that matter, spots of a colour of their own. */
import { computed, onScopeDispose, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { ColoursSettings, LightMark } from "@/api/types";
import { useHand } from "@/stores/hand";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTools, type Mark, type Use } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppSlider from "@/ui/AppSlider.vue";
import MarkList from "@/ui/MarkList.vue";

type Kind = LightMark["kind"] | "spot";
const props = defineProps<{ settings: ColoursSettings }>();
const { t } = useI18n();
const tools = useTools();
const stage = useStage();
const hand = useHand();
const job = useJob();
const KINDS: Kind[] = ["darker", "lighter", "finer", "calmer", "matters", "spot"];
const COLOURS: Record<Kind, string> = {
  darker: "#25303a", lighter: "#c98a1b", finer: "#1f7a4d", calmer: "#5b6fa8", matters: "#b8336a", eye: "#b8336a", spot: "#b8336a",
};
const MOST_POINTS = 240;
const RING_PX = 3;
const size = ref(60);
const amount = ref(12);
const reach = ref(9);
const NAMED = "light-";
/** Other tools of the tray, the dropper say, are none of these. */
const chosen = computed(() => (tools.tool?.name.startsWith(NAMED) ? (tools.tool.name.slice(NAMED.length) as Kind) : undefined));
const isBrush = computed(() => chosen.value !== undefined && chosen.value !== "matters" && chosen.value !== "spot");
const how = computed(() => (!chosen.value ? "none" : isBrush.value ? "paint" : chosen.value));

const rounded = (value: number): number => Math.round(value * 1e5) / 1e5;
const share = (px: number): number => Math.min(2, Math.max(1e-4, px / (stage.view.scale * hand.pageWidth)));

/** All points of a stroke, or every so many of a long one. */
function thinned({ points }: Use): [number, number][] {
  const every = Math.ceil(points.length / MOST_POINTS);
  return points.filter((_, i) => i % every === 0).map(({ x, y }) => [rounded(x), rounded(y)]);
}

function use(kind: Kind, used: Use): void {
  const points = thinned(used);
  const [first] = points;
  if (!first) return;
  if (kind === "spot") void job.edit("colours", { add: { spots: [{ x: first[0], y: first[1], reach: reach.value }] } });
  else if (kind !== "matters" || points.length >= 3) {
    void job.edit("colours", { add: { light_marks: [{ kind, points, width: rounded(share(size.value)), amount: amount.value }] } });
  }
}

function take(kind: Kind): void {
  tools.toggle({
    name: `${NAMED}${kind}`, kind: kind === "spot" ? "click" : "stroke", colour: COLOURS[kind],
    width: kind === "matters" ? RING_PX : size.value, done: (used) => use(kind, used),
  });
}
function setSize(px: number): void {
  size.value = px;
  if (tools.tool && isBrush.value) tools.tool = { ...tools.tool, width: px };
}

const listed = computed(() => [
  ...props.settings.spots.map((spot, i) => ({ kind: "spot" as Kind, list: "spots", i, points: [{ x: spot.x, y: spot.y }], width: 0.01 })),
  ...props.settings.light_marks.map((mark, i) => ({
    kind: mark.kind as Kind, list: "light_marks", i, points: mark.points.map(([x, y]) => ({ x, y })), width: mark.kind === "matters" ? 0.004 : (mark.width ?? 0.1),
  })),
].reverse());
function look(mark: Omit<Mark, "kind" | "colour"> & { kind: Kind } | null): void {
  tools.glance = mark ? [{ kind: "stroke", points: mark.points, colour: COLOURS[mark.kind], width: mark.width }] : [];
}
function drop(at: number): void {
  const mark = listed.value[at];
  if (mark) void job.edit("colours", { take_out: { [mark.list]: [mark.i] } });
}
onScopeDispose(() => {
  tools.take(null);
  tools.glance = [];
});
</script>

<template>
  <section class="light" :aria-label="t('brush.title')">
    <h3>{{ t("brush.title") }}</h3>
    <div class="grid">
      <AppButton v-for="kind in KINDS" :key="kind" small :pressed="chosen === kind" @click="take(kind)">{{ t(`brush.kinds.${kind}`) }}</AppButton>
    </div>
    <p class="soft" aria-live="polite">{{ t(`brush.how.${how}`) }}</p>
    <AppSlider
      v-if="isBrush" :label="t('brush.size')" :value="size" :min="6" :max="300" :step="1" unit="px" ratio
      :low="t('touch.fine')" :high="t('touch.broad')" @move="setSize" @settle="setSize"
    />
    <AppSlider
      v-if="chosen === 'darker' || chosen === 'lighter'" :label="t('brush.amount')" :value="amount" :min="2" :max="60" :step="1"
      :low="t('brush.little')" :high="t('brush.much')" @move="amount = $event" @settle="amount = $event"
    />
    <AppSlider
      v-if="chosen === 'spot'" :label="t('background.reach')" :value="reach" :min="1" :max="60" :step="1" ratio
      :low="t('background.less')" :high="t('background.more')" @move="reach = $event" @settle="reach = $event"
    />
    <MarkList
      :marks="listed.map((mark, n) => ({ number: listed.length - n, colour: COLOURS[mark.kind], text: t(`brush.did.${mark.kind}`) }))"
      :label="t('brush.list')" :out="t('touch.out')" :out-label="(number) => t('touch.takeOut', { number })"
      @look="look($event === null ? null : (listed[$event] ?? null))" @out="drop"
    />
  </section>
</template>

<style scoped>
.light { border: 1px solid var(--line); background: var(--card); padding: 8px 10px; display: grid; gap: 8px; }
.light h3, .light p { margin: 0; }
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 6px; }
</style>
