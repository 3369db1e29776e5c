<script setup lang="ts">
/** A layer: its colour, name and place among the others; opened, what it is cut from, which colours make it, and how it meets others. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Build, Layer, Stock } from "@/api/types";
import { BUILDS, runsUnder } from "@/core/builds";
import AppButton from "@/ui/AppButton.vue";
import AppIcon from "@/ui/AppIcon.vue";
import AppSelect from "@/ui/AppSelect.vue";
import AppText from "@/ui/AppText.vue";
import ColourWell from "@/ui/ColourWell.vue";

const props = defineProps<{
  layer: Layer; first: boolean; last: boolean; open: boolean; stocks: readonly Stock[]; colours: readonly { hold: Layer["holds"][number]; label: string }[];
  others: readonly { index: number; name: string }[]; above: readonly { index: number; name: string; build: Build | "" }[]; over: "" | "onto" | "before";
}>();
defineEmits<{
  light: [on: boolean];
  rename: [name: string]; tryColour: [colour: string]; colour: [colour: string]; shift: [by: number]; open: []; stock: [id: string]; part: [hold: Layer["holds"][number]];
  join: [index: number]; meet: [index: number, build: Build | ""]; look: [];
}>();
const { t } = useI18n();
const stockOptions = computed(() => [
  { value: "", label: t("layers.noStock") },
  // One that the drawer has no more is still what the layer is cut from.
  ...(props.layer.stock && !props.stocks.some(({ id }) => id === props.layer.stock) ? [{ value: props.layer.stock, label: t("layers.goneStock", { name: props.layer.name }) }] : []),
  ...props.stocks.map(({ id, name, kind }) => ({ value: id ?? "", label: `${name} · ${t(`stocks.kinds.${kind}`).toLowerCase()}` })),
]);
const joinOptions = computed(() => [{ value: "", label: t("layers.joinWith") }, ...props.others.map(({ index, name }) => ({ value: String(index), label: name }))]);
const builds = computed(() => (["", ...BUILDS] as const).map((value) => ({ value, label: t(value ? `layers.${value}` : "layers.asAll") })));
const under = computed(() => runsUnder(props.layer.runs_under, t));
const made = computed(() => props.layer.id !== "backing" && props.layer.id !== "reverse");
</script>

<template>
  <li :class="[over, { open }]" :draggable="made" @pointerenter="$emit('light', true)" @pointerleave="$emit('light', false)" @focusin="$emit('light', true)" @focusout="$emit('light', false)" @keydown.alt.up.prevent="first || $emit('shift', -1)" @keydown.alt.down.prevent="last || $emit('shift', 1)">
    <div class="row">
      <ColourWell :label="t('layers.colour', { name: layer.name })" :value="layer.colour" @move="$emit('tryColour', $event)" @settle="$emit('colour', $event)" />
      <span class="words">
        <AppText class="name" :label="t('layers.name', { name: layer.name })" :value="layer.name" :longest="60" @settle="$emit('rename', $event)" />
        <small class="soft" :title="under">{{ t("layers.facts", { pieces: t("colours.pieces", layer.pieces), nodes: layer.nodes }) }}</small>
      </span>
      <span class="moves">
        <button type="button" :disabled="first" :aria-label="t('layers.up', { name: layer.name })" @click="$emit('shift', -1)"><AppIcon name="up" /></button>
        <button type="button" :disabled="last" :aria-label="t('layers.down', { name: layer.name })" @click="$emit('shift', 1)"><AppIcon name="down" /></button>
      </span>
      <span class="moves">
        <button type="button" :aria-label="t('layers.look', { name: layer.name })" :title="t('layers.look', { name: layer.name })" @click="$emit('look')"><AppIcon name="eye" /></button>
        <button v-if="made" type="button" :aria-expanded="open" :aria-label="t('layers.more', { name: layer.name })" :title="t('layers.more', { name: layer.name })" @click="$emit('open')">
          <span aria-hidden="true" class="dots">⋯</span>
        </button>
      </span>
    </div>
    <div v-if="open && made" class="inside">
      <p v-if="under" class="soft">{{ under }}</p>
      <AppSelect :model-value="layer.stock" :label="t('layers.cutFrom')" :options="stockOptions" @update:model-value="$emit('stock', $event)" />
      <div v-if="colours.length > 1" class="colours">
        <b>{{ t("layers.madeOf") }}</b>
        <span v-for="one in colours" :key="one.label" class="colour">
          <i :style="{ background: one.hold.colour.slice(0, 7) }" />{{ one.label }}
          <AppButton small look="quiet" :aria-label="t('layers.partFrom', { colour: one.label, name: layer.name })" @click="$emit('part', one.hold)">{{ t("layers.partOff") }}</AppButton>
        </span>
      </div>
      <AppSelect v-if="others.length" model-value="" :label="t('layers.join')" :options="joinOptions" hide-label @update:model-value="$event && $emit('join', Number($event))" />
      <div v-if="above.length" class="meets">
        <b>{{ t("layers.meets") }}</b>
        <AppSelect
          v-for="one in above" :key="one.index" class="meet" :model-value="one.build" :label="one.name" :options="builds" @update:model-value="$emit('meet', one.index, $event)"
        />
      </div>
    </div>
  </li>
</template>

<style scoped>
li { padding: 3px 6px; position: relative; }
li + li { border-top: 1px solid var(--line); }
li.onto { outline: 2px solid var(--seam); outline-offset: -2px; }
li.before::before { content: ""; position: absolute; left: 0; right: 0; top: -2px; height: 3px; background: var(--seam); }
.row { display: grid; grid-template-columns: 34px minmax(0, 1fr) auto auto; gap: 6px; align-items: center; }
.words { display: grid; min-width: 0; }
.name { border-color: transparent; background: transparent; font-weight: 700; padding: 1px 5px; width: 100%; box-shadow: none; text-overflow: ellipsis; }
.name:hover, .name:focus { border-color: var(--line); background: var(--paper); }
.words small { padding-left: 6px; line-height: 1.2; }
.moves { display: grid; }
.moves button { border: 0; background: none; padding: 0 4px; display: grid; cursor: pointer; border-radius: 2px; justify-items: center; min-height: 18px; color: var(--ink); }
.moves button:hover:not(:disabled) { background: var(--hover); }
.moves button:disabled { color: var(--off); cursor: default; }
.dots { font-weight: 700; line-height: 1; }
.inside p { margin: 0; }
.inside { display: grid; gap: 10px; padding: 8px 4px 6px; }
.colours { display: grid; gap: 4px; }
.colour { display: flex; gap: 8px; align-items: center; }
.colour i { width: 16px; height: 16px; border: 1px solid var(--edge); }
.colour > :last-child { margin-left: auto; }
.meets { display: grid; gap: 6px; }
.meet { grid-template-columns: minmax(0, 1fr) 130px; align-items: center; }
.meet :deep(label) { font-weight: 400; }
</style>
