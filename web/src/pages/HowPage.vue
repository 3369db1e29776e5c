<script setup lang="ts">
/** How it goes, in pictures, for whoever is here for the first time. */
import { onMounted } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import WordMark from "@/head/WordMark.vue";
import HowPicture from "@/help/HowPicture.vue";
import AppButton from "@/ui/AppButton.vue";

const STEPS = ["picture", "background", "colours", "lines", "layers", "sheets", "check", "export"] as const;
const { t } = useI18n();
const router = useRouter();
const back = (): void => (window.history.length > 1 ? router.back() : void router.push("/"));
onMounted(() => (document.title = `${t("howItGoes.title")} · ${t("app.name")}`));
</script>

<template>
  <div class="page">
    <header><RouterLink to="/" class="home" :aria-label="`${t('app.name')}: ${t('app.toShelf')}`"><WordMark /></RouterLink></header>
    <main>
      <div class="top"><h1>{{ t("howItGoes.title") }}</h1><AppButton small @click="back">{{ t("howItGoes.back") }}</AppButton></div>
      <p>{{ t("howItGoes.lead") }}</p>
      <p class="first">{{ t("howItGoes.first") }}</p>
      <ol>
        <li v-for="step in STEPS" :key="step">
          <HowPicture :step="step" />
          <h2>{{ t(`howItGoes.steps.${step}[0]`) }}</h2>
          <p>{{ t(`howItGoes.steps.${step}[1]`) }}</p>
        </li>
      </ol>
    </main>
  </div>
</template>

<style scoped>
.page { min-height: 100%; display: grid; grid-template-rows: 56px 1fr; }
header { background: var(--head); color: var(--on-head); display: flex; align-items: center; padding: 0 24px; overflow: hidden; }
.home { color: inherit; text-decoration: none; }
main { width: min(1060px, 100%); margin: 0 auto; padding: 26px 24px 40px; display: grid; gap: 12px; align-content: start; }
.top { display: flex; justify-content: space-between; align-items: center; }
h1 { font-size: 28px; }
.first { background: var(--card); border: 1px solid var(--line); border-left: 4px solid var(--seam); padding: 10px 14px; font-weight: 700; }
ol { list-style: none; counter-reset: step; margin: 8px 0 0; padding: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(225px, 1fr)); gap: 18px; }
li { background: var(--card); border: 1px solid var(--line); box-shadow: 2px 3px 0 var(--shade); padding: 14px 16px; display: grid; gap: 6px; align-content: start; counter-increment: step; }
li :deep(svg) { width: 100%; height: 150px; background: var(--well); }
h2 { font-size: 17px; }
h2::before { content: counter(step) ". "; color: var(--seam); }
</style>
