<script setup lang="ts">
/** Over the jobs: what is looked for, in which order they stand, and what is done with several at once. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { bundleOf } from "@/api/shelf";
import type { JobSummary } from "@/api/types";
import { ORDERS, type Order } from "@/core/shelf";
import { useShelf } from "@/stores/shelf";
import AppButton from "@/ui/AppButton.vue";
import AppSelect from "@/ui/AppSelect.vue";

const props = defineProps<{ picked: JobSummary[]; tags: string[] }>();
const emit = defineEmits<{ letGo: [] }>();
const question = defineModel<string>("question", { required: true });
const order = defineModel<Order>("order", { required: true });
const { t } = useI18n();
const shelf = useShelf();
const word = ref("");
const orders = computed(() => ORDERS.map((value) => ({ value, label: t(`shelf.orders.${value}`) })));

async function tag(): Promise<void> {
  if (word.value.trim()) await shelf.tag(props.picked, [word.value.trim()]);
  word.value = "";
}
async function takeOut(): Promise<void> {
  const answer = await bundleOf(props.picked.map(({ id }) => id));
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await answer.blob());
  link.download = props.picked.length > 1 ? "bisectum-shelf.zip" : `${props.picked[0]?.name ?? "job"}.zip`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
async function takeOff(): Promise<void> {
  await shelf.takeOff(props.picked);
  emit("letGo");
}
</script>

<template>
  <div v-if="!picked.length" class="tools">
    <input v-model="question" type="search" class="search" :placeholder="t('shelf.search')" :aria-label="t('shelf.search')" />
    <ul v-if="tags.length" class="tags" :aria-label="t('shelf.tags')">
      <li v-for="own in tags" :key="own"><button type="button" :aria-pressed="question === own" @click="question = question === own ? '' : own">{{ own }}</button></li>
    </ul>
    <AppSelect v-model="order" hide-label class="order" :label="t('shelf.order')" :options="orders" />
    <a class="all" href="/api/shelf/bundle">{{ t("shelf.takeOutAll") }}</a>
    <button type="button" class="all" :disabled="shelf.looking" :title="t('shelf.lookThroughHint')" @click="shelf.lookThrough()">{{ t(shelf.looking ? "shelf.lookingThrough" : "shelf.lookThrough") }}</button>
  </div>
  <div v-else class="tools several">
    <b>{{ t("shelf.picked", picked.length) }}</b>
    <input v-model="word" maxlength="30" class="word" @keydown.enter="tag" :placeholder="t('shelf.addTag')" :aria-label="t('shelf.addTag')" />
    <AppButton small @click="tag()">{{ t("shelf.addTag") }}</AppButton>
    <AppButton small @click="takeOut()">{{ t("shelf.takeOutSome") }}</AppButton>
    <AppButton small @click="takeOff()">{{ t("shelf.takeOff") }}</AppButton>
    <AppButton small look="quiet" @click="emit('letGo')">{{ t("shelf.letGo") }}</AppButton>
  </div>
</template>

<style scoped>
.tools { display: flex; flex-wrap: wrap; gap: 10px; align-items: center; margin-bottom: 14px; min-height: 38px; }
.search { flex: 0 1 260px; border: 1px solid var(--frame); background: var(--paper); padding: 7px 10px; border-radius: 3px; }
.word { border: 1px solid var(--frame); background: var(--paper); padding: 4px 8px; border-radius: 3px; width: 150px; }
.tags { list-style: none; margin: 0; padding: 0; display: flex; flex-wrap: wrap; gap: 5px; flex: 1; max-height: 56px; overflow: hidden; }
.tags button { border: 1px solid var(--line); background: var(--card); padding: 3px 9px; font-size: 12.5px; cursor: pointer; border-radius: 3px; }
.tags button[aria-pressed="true"] { background: var(--ink); color: var(--card); }
.order { width: 196px; margin-left: auto; }
.all { color: var(--ink); font: inherit; font-weight: 700; border: 0; padding: 0; background: none; cursor: pointer; text-decoration: underline; text-decoration-color: var(--stitch); text-underline-offset: 3px; }
.all + .all { margin-left: 8px; }
.several { background: var(--tint); border: 1px solid var(--line); padding: 4px 10px; }
</style>
