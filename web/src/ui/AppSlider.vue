<script setup lang="ts">
/** A slider with words at its ends and a number that can be typed. `move` while the hand moves, `settle` once it rests. */
import InputNumber from "primevue/inputnumber";
import Slider from "primevue/slider";
import { computed, onBeforeUnmount, onMounted, ref, useId, watch } from "vue";

import { useTouched } from "@/composables/useTouched";

const props = defineProps<{
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  unit?: string;
  digits?: number;
  low: string;
  high: string;
  /** Even steps of the hand are even ratios of the value. */
  ratio?: boolean;
}>();
const emit = defineEmits<{ move: [value: number]; settle: [value: number] }>();

const id = useId();
const draft = ref(props.value);
const touched = useTouched(() => draft.value, () => props.digits ?? 0);
watch(() => props.value, (value) => (draft.value = value));

const TRAVEL = 1000;
const toTravel = (value: number): number =>
  props.ratio
    ? (Math.log(value / props.min) / Math.log(props.max / props.min)) * TRAVEL
    : ((value - props.min) / (props.max - props.min)) * TRAVEL;
function fromTravel(travel: number): number {
  const share = travel / TRAVEL;
  const value = props.ratio ? props.min * (props.max / props.min) ** share : props.min + (props.max - props.min) * share;
  return Math.min(props.max, Math.max(props.min, Number((Math.round(value / props.step) * props.step).toFixed(6))));
}
const travel = computed(() => Math.round(toTravel(Math.min(props.max, Math.max(props.min, draft.value)))));
const keyStep = computed(() => Math.max(1, Math.round(props.ratio ? TRAVEL / 50 : (props.step / (props.max - props.min)) * TRAVEL)));

function onMove(next: number | number[]): void {
  const value = fromTravel(Array.isArray(next) ? (next[0] ?? 0) : next);
  if (value === draft.value) return;
  draft.value = value;
  emit("move", value);
}

function onTyped(next: number | null | undefined | string): void {
  if (typeof next !== "number" || !touched.take(next) || next === props.value) return;
  draft.value = next;
  emit("settle", next);
}

/** Keys are taken for one change while they follow each other; it is not lost if the tray or the page goes meanwhile. */
let keyTimer: ReturnType<typeof setTimeout> | undefined;
function onKey(event: KeyboardEvent): void {
  if (!/^(Arrow|Page|Home|End)/.test(event.key)) return;
  clearTimeout(keyTimer);
  keyTimer = setTimeout(settleKeys, 350);
}
function settleKeys(): void {
  if (keyTimer === undefined) return;
  clearTimeout(keyTimer);
  keyTimer = undefined;
  emit("settle", draft.value);
}
onMounted(() => window.addEventListener("pagehide", settleKeys));
onBeforeUnmount(() => {
  window.removeEventListener("pagehide", settleKeys);
  settleKeys();
});
</script>

<template>
  <div class="slider">
    <div class="row">
      <label :id="`${id}-label`" :for="`${id}-number`">{{ label }}</label>
      <InputNumber
        :input-id="`${id}-number`"
        :model-value="draft"
        :min="min"
        :max="max"
        :min-fraction-digits="digits ?? 0"
        :max-fraction-digits="digits ?? 0"
        :suffix="unit ? ` ${unit}` : undefined"
        :use-grouping="false"
        size="small"
        class="typed"
        @focus="touched.focus"
        @input="touched.input"
        @update:model-value="onTyped"
      />
    </div>
    <Slider
      :model-value="travel"
      :min="0"
      :max="TRAVEL"
      :step="keyStep"
      :aria-labelledby="`${id}-label`"
      @update:model-value="onMove"
      @slideend="emit('settle', draft)"
      @keyup="onKey"
    />
    <div class="ends"><span>{{ low }}</span><span>{{ high }}</span></div>
  </div>
</template>

<style scoped>
.slider { display: grid; gap: 2px; }
.row { display: flex; justify-content: space-between; align-items: center; gap: 8px; }
.row label { font-weight: 700; }
.ends { display: flex; justify-content: space-between; font-size: 11.5px; line-height: 13px; color: var(--soft); }
.typed :deep(input) { width: 86px; text-align: right; font-variant-numeric: tabular-nums; padding: 1px 6px; height: 24px; }
.slider :deep(.p-slider) { margin: 5px 6px 4px; }
.slider :deep(.p-slider-handle) { height: 14px; }
</style>
