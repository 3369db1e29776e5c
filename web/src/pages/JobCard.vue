<script setup lang="ts">
/** A job on the shelf: its picture, what it is called, and what can be done with it. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { RouterLink } from "vue-router";

import { bundleUrl, thumbnailUrl } from "@/api/jobs";
import type { JobSummary } from "@/api/types";
import { formatSize, type Unit } from "@/core/units";
import AppIcon from "@/ui/AppIcon.vue";

const props = defineProps<{ job: JobSummary; unit: Unit; picked: boolean }>();
const emit = defineEmits<{ remove: []; pick: []; rename: [name: string]; copy: []; tag: [tag: string]; untag: [tag: string]; search: [tag: string] }>();
const { t, d } = useI18n();
const open = ref(false);
const name = ref(props.job.name);
const word = ref("");
const when = computed(() => d(new Date(`${props.job.changed_at}Z`), { dateStyle: "medium", timeStyle: "short" }));
const facts = computed(() => [
  props.job.width_mm ? formatSize(props.job.width_mm, props.job.height_mm, props.unit) : "",
  props.job.layers ? t("shelf.layers", props.job.layers) : "",
  props.job.pictures > 1 ? t("shelf.pictureCount", props.job.pictures) : "",
].filter(Boolean).join(" · "));

function rename(): void {
  if (name.value.trim() && name.value.trim() !== props.job.name) emit("rename", name.value.trim());
  else name.value = props.job.name;
}
function tag(): void {
  if (word.value.trim()) emit("tag", word.value.trim());
  word.value = "";
}
</script>

<template>
  <li class="card" :class="{ picked }">
    <a v-if="!job.readable" class="shut" :href="bundleUrl(job.id)">
      <span class="picture">{{ t("shelf.unreadable") }}</span>
      <span class="words"><b>{{ job.name }}</b><small>{{ t("shelf.takeOut") }}</small></span>
    </a>
    <RouterLink v-else :to="{ name: 'bench', params: { id: job.id } }">
      <span class="picture"><img v-if="job.has_thumbnail" :src="thumbnailUrl(job)" alt="" loading="lazy" /></span>
      <span class="words"><b><span class="visually-hidden">{{ t("shelf.open") }} </span>{{ job.name }}</b> <small v-if="facts" class="soft number">{{ facts }}</small> <small class="soft">{{ t("shelf.changed", { when }) }}</small></span>
    </RouterLink>
    <ul v-if="job.tags.length" class="tags">
      <li v-for="own in job.tags" :key="own">
        <button type="button" class="tag" @click="emit('search', own)">{{ own }}</button>
        <button v-if="open" type="button" class="off" :aria-label="t('shelf.untag', { tag: own, name: job.name })" @click="emit('untag', own)">×</button>
      </li>
    </ul>
    <input type="checkbox" class="pick" :checked="picked" :aria-label="t('shelf.pick', { name: job.name })" @change="emit('pick')" />
    <div class="tools">
      <button type="button" :aria-label="t('shelf.more', { name: job.name })" :title="t('shelf.more', { name: job.name })" :aria-expanded="open" @click="open = !open">…</button>
      <button type="button" :aria-label="t('shelf.remove', { name: job.name })" :title="t('shelf.remove', { name: job.name })" @click="emit('remove')"><AppIcon name="bin" /></button>
    </div>
    <div v-if="open" class="more">
      <label>{{ t("shelf.name") }} <input v-model="name" maxlength="80" @change="rename" /></label>
      <label>{{ t("shelf.addTag") }} <input v-model="word" maxlength="30" @keydown.enter="tag" :aria-label="t('shelf.addTagTo', { name: job.name })" /></label>
      <span>
        <button type="button" :disabled="!job.readable" @click="emit('copy')">{{ t("shelf.copy") }}</button>
        <a :href="bundleUrl(job.id)">{{ t("shelf.takeOut") }}</a>
      </span>
    </div>
  </li>
</template>

<style scoped>
.card { position: relative; background: var(--card); border: 1px solid var(--line); box-shadow: 2px 3px 0 var(--shade); align-self: start; }
.card.picked { outline: 2px solid var(--seam); }
.card > a { display: grid; color: inherit; text-decoration: none; }
.picture { height: 170px; display: grid; place-items: center; padding: 14px; border-bottom: 1px solid var(--line); background: var(--well2); min-height: 0; }
img { max-width: 100%; max-height: 142px; object-fit: contain; }
.words { display: grid; padding: 9px 12px; }
b { padding-right: 60px; font: 600 15.5px/1.25 var(--heading); overflow-wrap: anywhere; }
.tags { list-style: none; margin: 0; padding: 0 12px 10px; display: flex; flex-wrap: wrap; gap: 5px; }
.tags li { display: flex; }
.tag, .off { border: 1px solid var(--line); background: var(--hover); padding: 1px 8px; font-size: 12.5px; cursor: pointer; border-radius: 3px; overflow-wrap: anywhere; }
.off { border-left: 0; padding: 1px 6px; }
.tag:hover, .off:hover { border-color: var(--stitch); color: var(--seam); }
.pick { position: absolute; left: 10px; top: 10px; width: 18px; height: 18px; accent-color: var(--seam); opacity: 0; }
.card:hover .pick, .pick:focus-visible, .card.picked .pick { opacity: 1; }
.tools { position: absolute; right: 4px; top: 176px; display: flex; }
.tools button { border: 0; background: none; padding: 6px; color: var(--soft); cursor: pointer; display: grid; place-items: center; border-radius: 3px; min-width: 30px; min-height: 30px; font-weight: 700; }
.tools button:hover { color: var(--seam); background: var(--hover); }
.card:hover { border-color: var(--stitch); }
.shut .picture { color: var(--seam); font-weight: 700; }
.more { display: grid; gap: 6px; padding: 8px 12px 12px; border-top: 1px dashed var(--stitch); font-size: 13px; }
.more label { display: grid; grid-template-columns: 62px minmax(0, 1fr); align-items: center; gap: 6px; }
.more input { border: 1px solid var(--line); background: var(--paper); padding: 4px 6px; min-width: 0; }
.more span { display: flex; gap: 14px; }
.more span button, .more span a { border: 0; background: none; padding: 2px 0; color: var(--ink); cursor: pointer; text-decoration: underline; text-decoration-color: var(--stitch); text-underline-offset: 3px; font-weight: 700; }
@media (hover: none) { .pick { opacity: 1; } }
</style>
