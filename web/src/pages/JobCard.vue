<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { RouterLink } from "vue-router";

import { bundleUrl, thumbnailUrl } from "@/api/jobs";
import type { JobSummary } from "@/api/types";
import AppIcon from "@/ui/AppIcon.vue";

const props = defineProps<{ job: JobSummary }>();
defineEmits<{ remove: [] }>();
const { t, d } = useI18n();
const when = computed(() => d(new Date(`${props.job.changed_at}Z`), { dateStyle: "medium", timeStyle: "short" }));
</script>

<template>
  <li class="card">
    <a v-if="!job.readable" class="shut" :href="bundleUrl(job.id)" :aria-label="t('shelf.bundle', { name: job.name })">
      <span class="picture">{{ t("shelf.unreadable") }}</span>
      <span class="words"><b>{{ job.name }}</b><small>{{ t("shelf.takeOut") }}</small></span>
    </a>
    <RouterLink v-else :to="{ name: 'bench', params: { id: job.id } }" :aria-label="t('shelf.open', { name: job.name })">
      <span class="picture"><img v-if="job.has_thumbnail" :src="thumbnailUrl(job)" alt="" loading="lazy" /></span>
      <span class="words"><b>{{ job.name }}</b><small class="soft">{{ job.pictures > 1 ? t("shelf.pictures", { when }, job.pictures) : t("shelf.changed", { when }) }}</small></span>
    </RouterLink>
    <button type="button" :aria-label="t('shelf.remove', { name: job.name })" :title="t('shelf.remove', { name: job.name })" @click="$emit('remove')"><AppIcon name="bin" /></button>
  </li>
</template>

<style scoped>
.card { position: relative; background: var(--card); border: 1px solid var(--line); box-shadow: 2px 3px 0 #d6cebd; }
a { display: grid; color: inherit; text-decoration: none; }
.picture { height: 190px; display: grid; place-items: center; padding: 14px; border-bottom: 1px solid var(--line); background: #d9d1bf; min-height: 0; }
img { max-width: 100%; max-height: 162px; object-fit: contain; }
.words { display: grid; padding: 10px 42px 12px 12px; }
b { font: 600 15.5px/1.25 var(--heading); overflow-wrap: anywhere; }
button { position: absolute; right: 6px; bottom: 10px; border: 0; background: none; padding: 6px; color: var(--soft); cursor: pointer; display: grid; border-radius: 3px; }
button:hover { color: var(--seam); background: #efe9dc; }
.card:hover { border-color: var(--stitch); }
.shut .picture { color: var(--seam); font-weight: 700; }
</style>
