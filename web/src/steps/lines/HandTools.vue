<script setup lang="ts">
/** Corrections by hand: what can be done with the nodes picked on the stage. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useHand } from "@/stores/hand";
import { useStage } from "@/stores/stage";
import AppButton from "@/ui/AppButton.vue";
import AppNotice from "@/ui/AppNotice.vue";
import SizeField from "@/ui/SizeField.vue";

const { t } = useI18n();
const hand = useHand();
const stage = useStage();
const one = computed(() => hand.picked.length === 1);
const two = computed(() => hand.picked.length === 2);
</script>

<template>
  <section class="hand" :aria-label="t('hand.title')">
    <h3>{{ t("hand.title") }}</h3>
    <p class="soft" aria-live="polite">{{ t(two ? "hand.two" : one ? "hand.one" : "hand.none") }}</p>
    <div v-if="one" class="row">
      <AppButton small @click="hand.act('corner')">{{ t("hand.corner") }}</AppButton>
      <AppButton small @click="hand.act('smooth')">{{ t("hand.smooth") }}</AppButton>
      <AppButton small @click="hand.act('remove')">{{ t("hand.remove") }}</AppButton>
    </div>
    <div v-if="one" class="row round">
      <SizeField :label="t('hand.radius')" :mm="hand.radius" :unit="stage.unit" @settle="hand.radius = $event" />
      <AppButton small @click="hand.act('round')">{{ t("hand.round") }}</AppButton>
    </div>
    <div v-if="two" class="row">
      <AppButton small @click="hand.act('straight')">{{ t("hand.straight") }}</AppButton>
      <AppButton small @click="hand.act('arc')">{{ t("hand.arc") }}</AppButton>
      <AppButton small @click="hand.act('join')">{{ t("hand.join") }}</AppButton>
    </div>
    <template v-if="hand.corrections.length">
      <p v-if="hand.corrections.length > hand.leftOut.length" class="soft">{{ t("hand.made", hand.corrections.length - hand.leftOut.length) }}</p>
      <AppNotice v-if="hand.leftOut.length" kind="note">{{ t("hand.leftOut", hand.leftOut.length) }}</AppNotice>
      <div class="row">
        <AppButton small look="quiet" @click="hand.takeBack(false)">{{ t("hand.last") }}</AppButton>
        <AppButton small look="quiet" @click="hand.takeBack(true)">{{ t("hand.all") }}</AppButton>
      </div>
    </template>
  </section>
</template>

<style scoped>
.hand { border: 1px solid var(--line); background: var(--card); padding: 8px 10px; display: grid; gap: 6px; }
.hand h3, .hand p { margin: 0; }
.row { display: flex; flex-wrap: wrap; gap: 6px; align-items: end; }
.round > :first-child { flex: 1; }
</style>
