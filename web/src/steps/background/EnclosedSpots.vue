<script setup lang="ts">
/** Background shut in by the drawing: ringed on the stage; all, none or single spots go. */
import { computed, ref, watchEffect } from "vue";
import { useI18n } from "vue-i18n";

import type { BackgroundSettings, Spot } from "@/api/types";
import { MARK } from "@/stage/drawMarks";
import { useTools } from "@/stores/tools";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";

const props = defineProps<{ settings: BackgroundSettings; spots: Spot[]; oneColour: boolean }>();
const emit = defineEmits<{ settle: [change: Partial<BackgroundSettings>] }>();
const { t } = useI18n();
const tools = useTools();
const GONE = "#6b7280";
const MOST_LISTED = 12;
const looked = ref(-1);

const rules = computed(() => (["auto", "all", "none"] as const).map((value) => ({ value, label: t(`enclosed.${value}`) })));
const left = computed(() => props.spots.filter((spot) => !spot.taken).length);
const listed = computed(() => props.spots.slice(0, MOST_LISTED));
const smaller = computed(() => props.spots.slice(MOST_LISTED));

watchEffect(() => {
  tools.show(
    props.spots.map((spot, i) => ({
      kind: "ring",
      points: wider(spot.corners).map(([x, y]) => ({ x, y })),
      colour: spot.taken ? GONE : MARK,
      strong: i === looked.value,
      ...(i < MOST_LISTED ? { label: String(i + 1) } : {}),
    })),
  );
});

/** A ring goes around the corners of the box, not through them. */
function wider([[ax, ay], [bx, by]]: Spot["corners"]): [number, number][] {
  const [x, y, grow] = [(ax + bx) / 2, (ay + by) / 2, 0.72];
  const [rx, ry] = [Math.max(0.006, Math.abs(bx - ax) * grow), Math.max(0.006, Math.abs(by - ay) * grow)];
  return [[x - rx, y - ry], [x + rx, y + ry]];
}

function setRule(enclosed: BackgroundSettings["enclosed"]): void {
  emit("settle", { enclosed, enclosed_choices: [] });
}

function take(spots: readonly Spot[], wanted: boolean): void {
  const others = props.settings.enclosed_choices.filter((choice) => spots.every(({ at: [x, y] }) => Math.hypot(choice.x - x, choice.y - y) > 1e-4));
  emit("settle", { enclosed_choices: [...others, ...spots.map(({ at: [x, y] }) => ({ x, y, take: wanted }))] });
}
</script>

<template>
  <section class="spots" :aria-label="t('enclosed.title')">
    <AppChoice :model-value="settings.enclosed" :label="t('enclosed.title')" :options="rules" @update:model-value="setRule" />
    <p class="soft">{{ t("enclosed.found", spots.length) }} {{ left ? t("enclosed.left", left) : t("enclosed.allGone") }}
      <template v-if="oneColour && settings.enclosed === 'auto'">{{ t("enclosed.oneColour") }}</template></p>
    <ul>
      <li v-for="(spot, i) in listed" :key="i" @pointerenter="looked = i" @pointerleave="looked = -1">
        <label>
          <input type="checkbox" :checked="spot.taken" @change="take([spot], !spot.taken)" @focus="looked = i" @blur="looked = -1" />
          <b>{{ i + 1 }}</b>
          <span>{{ t(spot.likelihood >= 0.9 ? "enclosed.sure" : spot.likelihood >= 0.45 ? "enclosed.open" : "enclosed.unlikely") }}</span>
        </label>
      </li>
    </ul>
    <p v-if="smaller.length" class="soft group">
      {{ t("enclosed.smaller", smaller.length) }}
      <AppButton small @click="take(smaller, true)">{{ t("enclosed.all") }}</AppButton>
      <AppButton small @click="take(smaller, false)">{{ t("enclosed.none") }}</AppButton>
    </p>
  </section>
</template>

<style scoped>
.spots { display: grid; gap: 6px; }
.spots p { margin: 0; }
.group { display: flex; gap: 8px; align-items: center; }
ul { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: 1fr 1fr; gap: 2px 8px; }
li label { display: flex; gap: 6px; align-items: center; padding: 3px 4px; cursor: pointer; font-size: 0.86rem; }
li label:hover { background: var(--card); }
input { accent-color: var(--seam); }
</style>
