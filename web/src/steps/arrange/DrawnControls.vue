<script setup lang="ts">
/** A line drawn by hand: a piece or a line, its width, its nodes. */
import { useI18n } from "vue-i18n";

import { useMadeControl } from "@/composables/useMadeControl";
import AppCheck from "@/ui/AppCheck.vue";
import AppSlider from "@/ui/AppSlider.vue";
import ColourWell from "@/ui/ColourWell.vue";

const { t } = useI18n();
const { made, move, settle } = useMadeControl("drawn");
</script>

<template>
  <div v-if="made" class="group">
    <div class="row">
      <AppCheck :label="t('arrange.drawn.closed')" :value="made.closed ?? true" @settle="settle({ closed: $event })" />
      <ColourWell :label="t('arrange.colour')" :value="made.colour ?? '#000000'" @move="move({ colour: $event })" @settle="settle({ colour: $event }, 'coloured')" />
    </div>
    <AppSlider
      v-if="!made.closed" :label="t('arrange.drawn.width')" :value="made.width_mm ?? 2" :min="0.2" :max="30" :step="0.1" :digits="1" unit="mm" ratio
      :low="t('arrange.shape.thin')" :high="t('arrange.shape.broad')" @move="move({ width_mm: $event })" @settle="settle({ width_mm: $event })"
    />
    <p class="soft"><b>{{ t("arrange.drawn.nodes", made.nodes.length) }}.</b> {{ t("arrange.drawn.help") }}</p>
  </div>
</template>

<style scoped>
.group { display: grid; gap: 14px; border-top: 1px dashed var(--stitch); padding-top: 12px; }
.row { display: flex; justify-content: space-between; align-items: center; }
p { margin: 0; }
</style>
