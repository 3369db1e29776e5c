<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useErrorWords } from "@/composables/useErrorWords";
import { useTryOutName } from "@/composables/useTryOutName";
import type { TryOut } from "@/stores/tryOuts";

import TriedPicture from "./TriedPicture.vue";

const props = defineProps<{ one: TryOut; picked: boolean; beaten: boolean }>();
const emit = defineEmits<{ pick: [] }>();
const { t } = useI18n();
const words = useErrorWords();
const nameOf = useTryOutName();
const name = computed(() => nameOf(props.one));
const told = computed(() => (props.one.reason ? words(props.one.reason) : t(props.one.state === "working" ? "tryouts.making" : "tryouts.waiting")));
const waits = computed(() => props.one.state === "waiting" || props.one.state === "working");
</script>

<template>
  <button
    type="button"
    class="card"
    :class="{ picked, beaten, failed: one.state === 'failed', waits }"
    :aria-pressed="picked"
    :disabled="!one.tried"
    :title="beaten ? t('tryouts.beaten') : name"
    @click="emit('pick')"
  >
    <span class="visually-hidden">{{ t("tryouts.card", { letter: one.letter, name }) }}</span>
    <b class="letter" aria-hidden="true">{{ one.letter }}</b>
    <span class="picture">
      <TriedPicture v-if="one.tried" :tried="one.tried" />
      <span v-else class="reason">{{ told }}</span>
    </span>
    <span class="name" aria-hidden="true">{{ name }}</span>
    <span class="numbers">
      <template v-if="one.tried">
        <span>{{ t("tryouts.likeness", { value: Math.round(one.tried.likeness) }) }}</span>
        <span>{{ t("tryouts.minutes", { value: Math.max(1, Math.round(one.tried.minutes)) }) }}</span>
      </template>
    </span>
  </button>
</template>

<style scoped>
.card { position: relative; display: grid; grid-template-rows: minmax(0, 1fr) auto auto; min-height: 168px; padding: 0; text-align: left; background: var(--paper); border: 1px solid var(--line); cursor: pointer; color: var(--ink); }
.card:hover:not(:disabled) { border-color: var(--ink); }
.card.picked { outline: 2px solid var(--seam); outline-offset: -1px; }
.card:disabled { cursor: default; background: var(--card); }
.beaten .picture { opacity: 0.62; }
.beaten:hover .picture, .picked .picture { opacity: 1; }
.letter { position: absolute; left: 5px; top: 5px; z-index: 1; font: 600 13px/1 var(--heading); padding: 3px 6px; background: var(--card); border: 1px solid var(--line); }
.picked .letter { background: var(--seam); border-color: var(--seam); color: var(--on-seam); }
.picture { display: grid; min-height: 0; height: 118px; }
.picture svg { width: 100%; height: 100%; min-height: 0; padding: 6px; }
.reason { align-self: center; justify-self: center; padding: 24px 12px 6px; font-size: 12.5px; line-height: 1.3; color: var(--soft); text-align: center; overflow: hidden; }
.name { padding: 3px 8px 0; font-size: 12.5px; font-weight: 700; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.numbers { display: flex; justify-content: space-between; gap: 6px; padding: 1px 8px 5px; font-size: 12px; color: var(--soft); min-height: 22px; font-variant-numeric: tabular-nums; }
</style>
