<script setup lang="ts">
/** By hand: strokes that say what stays and goes, spots, and the brush. Each use is one touch, which can be taken out again. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { askImage } from "@/api/client";
import { groundPath, spotPath } from "@/api/jobs";
import type { BackgroundSettings, Touch } from "@/api/types";
import { Latest } from "@/core/latest";
import type { Point } from "@/core/nodeGrid";
import { useHand } from "@/stores/hand";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTools, type Use } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppCheck from "@/ui/AppCheck.vue";
import AppSlider from "@/ui/AppSlider.vue";
import MarkList from "@/ui/MarkList.vue";

type Kind = Touch["kind"];
const props = defineProps<{ settings: BackgroundSettings; allKept: boolean }>();
const emit = defineEmits<{ settle: [change: Partial<BackgroundSettings>] }>();
const { t } = useI18n();
const tools = useTools();
const stage = useStage();
const hand = useHand();
const job = useJob();
const KINDS: Kind[] = ["keep", "drop", "spot_clear", "spot_restore", "clear", "restore"];
const COLOURS: Record<Kind, string> = {
  keep: "#1f7a4d", restore: "#1f7a4d", spot_restore: "#1f7a4d", drop: "#b8336a", clear: "#b8336a", spot_clear: "#b8336a",
};
const STROKE_PX = 9;
const size = ref(24);
const reach = ref(4);
const chosen = computed(() => tools.tool?.name as Kind | undefined);
const isBrush = computed(() => chosen.value === "clear" || chosen.value === "restore");
const isSpot = computed(() => chosen.value?.startsWith("spot") ?? false);
const listed = computed(() => props.settings.touches.map((touch, i) => ({ touch, i })).reverse());
const asking = new Latest();
const first = new Latest();

const rounded = (value: number): number => Math.round(value * 1e5) / 1e5;
/** Stage px as a share of the picture's width. */
const share = (px: number): number => Math.min(2, Math.max(1e-5, px / (stage.view.scale * hand.pageWidth)));

function touchOf(kind: Kind, { points, pressures, shift }: Use): Touch {
  const spot = kind.startsWith("spot");
  const own = spot ? points.slice(0, 1) : points;
  // A mouse knows no pressure and always says one half.
  const pressed = !spot && pressures.some((value) => value !== 0.5) && pressures.length === own.length;
  return {
    kind,
    points: own.map(({ x, y }) => [rounded(x), rounded(y)] as [number, number]),
    width: rounded(share(kind === "keep" || kind === "drop" ? STROKE_PX : size.value)),
    pressures: pressed ? pressures.map((value) => rounded(Math.min(1, Math.max(0, value)))) : [],
    reach: reach.value,
    everywhere: spot && shift,
  };
}

function take(kind: Kind): void {
  tools.toggle({
    name: kind,
    kind: kind.startsWith("spot") ? "click" : "stroke",
    colour: COLOURS[kind],
    width: kind === "keep" || kind === "drop" ? STROKE_PX : size.value,
    done: (use) => put(touchOf(kind, use)),
    ...(kind.startsWith("spot") ? { hover: (at: Point | null, shift: boolean) => void show(kind, at, shift) } : {}),
  });
}

/** Keep a touch; its ground is shown as soon as that is known, the rest follows. */
function put(touch: Touch): void {
  const known = job.keptItem?.course.background.touches.length ?? 0;
  void job.edit("background", { add: { touches: [touch] } });
  const id = job.job?.id;
  if (id === undefined || !job.item) return;
  const path = groundPath(id, job.item.id);
  // Those that the server has already are not sent again.
  const add = { touches: (job.course?.background.touches ?? []).slice(known) };
  void first.run((signal) => askImage(path, { add }, signal)).then(
    (found) => {
      if (found && job.work === "working") tools.ground = found;
    },
    () => null,
  );
}

/** Show what a click here would take. */
async function show(kind: Kind, at: Point | null, shift: boolean): Promise<void> {
  const id = job.job?.id;
  if (!at || id === undefined || !job.item) {
    asking.cancel();
    tools.veil = null;
    return;
  }
  const touch = touchOf(kind, { points: [at], pressures: [], shift });
  const path = spotPath(id, job.item.id);
  const found = await asking.run((signal) => askImage(path, touch, signal)).catch(() => null);
  if (found && tools.tool?.name === kind) tools.veil = found;
}

function setSize(px: number): void {
  size.value = px;
  if (tools.tool && isBrush.value) tools.tool = { ...tools.tool, width: px };
}

function drop(at: number): void {
  void job.edit("background", { take_out: { touches: [at] } });
}

/** The touch looked at lights up on the stage. */
function look(touch: Touch | null): void {
  const points = touch?.points.map(([x, y]) => ({ x, y })) ?? [];
  tools.glance = touch ? [{ kind: "stroke", points, colour: COLOURS[touch.kind], width: touch.width }] : [];
}
</script>

<template>
  <section class="touches" :aria-label="t('touch.title')">
    <h3>{{ t("touch.title") }}</h3>
    <div class="grid">
      <AppButton v-for="kind in KINDS" :key="kind" small :pressed="chosen === kind" @click="take(kind)">
        {{ t(`touch.${kind}`) }}
      </AppButton>
    </div>
    <p class="soft" aria-live="polite">{{ t(chosen ? `touch.how.${isSpot ? "spot" : isBrush ? "brush" : "stroke"}` : "touch.how.none") }}</p>
    <AppSlider
      v-if="isBrush"
      :label="t('touch.size')" :value="size" :min="3" :max="160" :step="1" unit="px" ratio
      :low="t('touch.fine')" :high="t('touch.broad')" @move="setSize" @settle="setSize"
    />
    <AppSlider
      v-if="isSpot"
      :label="t('background.reach')" :value="reach" :min="0.4" :max="40" :step="0.2" :digits="1" ratio
      :low="t('background.less')" :high="t('background.more')" @move="reach = $event" @settle="reach = $event"
    />
    <MarkList
      :marks="listed.map(({ touch, i }) => ({ number: i + 1, colour: COLOURS[touch.kind], text: t(`touch.did.${touch.kind}`) }))"
      :label="t('touch.list')" :out="t('touch.out')" :out-label="(number) => t('touch.takeOut', { number })"
      @look="look($event === null ? null : (listed[$event]?.touch ?? null))" @out="drop(listed[$event]?.i ?? -1)"
    />
    <AppCheck
      v-if="allKept && settings.touches.some((touch) => touch.kind === 'keep')"
      :label="t('touch.loose')" :value="settings.loose_parts" @settle="emit('settle', { loose_parts: $event })"
    />
    <div v-if="settings.touches.length > 1" class="end">
      <span class="soft">{{ t("touch.count", settings.touches.length) }}</span>
      <AppButton small look="quiet" @click="emit('settle', { touches: [] })">{{ t("touch.allOut") }}</AppButton>
    </div>
  </section>
</template>

<style scoped>
.touches { border: 1px solid var(--line); background: var(--card); padding: 8px 10px; display: grid; gap: 8px; }
.touches h3, .touches p { margin: 0; }
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 6px; }
.grid :deep(.small) { padding: 4px 2px; }
.end { display: flex; justify-content: space-between; align-items: center; }
</style>
