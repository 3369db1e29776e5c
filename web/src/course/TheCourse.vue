<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { StageImages } from "@/composables/useStageImages";
import { useSummary } from "@/composables/useSummary";
import { COURSE } from "@/core/course";
import type { LayerShape } from "@/stage/shapes";
import { useStage } from "@/stores/stage";

import ItemStrip from "./ItemStrip.vue";
import StepThumb from "./StepThumb.vue";

defineProps<{ images: StageImages; shapes: LayerShape[] }>();
const emit = defineEmits<{ open: [] }>();
const { t } = useI18n();
const stage = useStage();
const summary = useSummary();
</script>

<template>
  <nav class="course" :aria-label="t('course.label')">
    <ItemStrip :images="images" />
    <ol>
      <li v-for="(step, i) in COURSE" :key="step" :class="{ make: step === 'arrange' }">
        <span v-if="step === 'arrange'" class="parting">{{ t("course.make") }}</span>
        <button
          type="button"
          class="step"
          :class="{ on: stage.step === step }"
          :aria-current="stage.step === step ? 'step' : undefined"
          :aria-keyshortcuts="String((i + 1) % 10)"
          @click="stage.openStep(step); emit('open')"
        >
          <StepThumb :step="step" :images="images" :shapes="shapes" />
          <span class="words">
            <b>{{ t(`course.${step}`) }}</b>
            <small class="told">{{ summary[step] }}</small>
          </span>
        </button>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
.course { padding: 14px 0 14px 12px; overflow-y: auto; min-height: 0; }
ol { list-style: none; margin: 0; padding: 0; }
li { position: relative; }
li:not(:last-child)::after { content: ""; position: absolute; left: 32px; bottom: -5px; height: 10px; border-left: 2px dashed var(--stitch); z-index: 1; }
li.make { margin-top: 10px; padding-top: 9px; }
.parting { position: absolute; top: -8px; left: 6px; right: 12px; font-size: 11.5px; color: var(--soft); display: flex; align-items: center; gap: 8px; }
.parting::before { content: ""; flex: 1; border-top: 2px dashed var(--stitch); }
li:has(+ li.make)::after { display: none; }
.step { display: grid; grid-template-columns: 46px minmax(0, 1fr); gap: 10px; width: 100%; padding: 5px 10px; text-align: left; background: none; border: 1px solid transparent; border-right: 0; cursor: pointer; color: var(--soft); }
.step:hover { background: var(--hover); }
.step.on { background: var(--card); border-color: var(--line); box-shadow: -3px 2px 0 var(--shade); position: relative; z-index: 2; margin-right: -1px; }
.words { display: grid; align-content: center; gap: 1px; }
b { font: 600 15px/1.2 var(--heading); color: var(--ink); }
.on b { color: var(--seam); }
small { font-size: 12px; line-height: 1.25; }
@media (max-width: 1120px) {
  .course { padding-left: 8px; }
  .step { grid-template-columns: 1fr; justify-items: center; padding: 3px 4px; gap: 1px; text-align: center; }
  .step :deep(.thumb) { width: 38px; height: 38px; }
  .course { padding-top: 12px; padding-bottom: 4px; }
  li:not(:last-child)::after { left: 50%; }
  small { display: none; }
  b { font-size: 12.5px; }
}
</style>
