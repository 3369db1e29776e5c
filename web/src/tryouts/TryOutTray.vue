<script setup lang="ts">
/** What the picked try-out is, how much work it makes, and the way to take it. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { useTryOutName } from "@/composables/useTryOutName";
import { useJob } from "@/stores/job";
import { useStage } from "@/stores/stage";
import { useTryOuts } from "@/stores/tryOuts";
import AppButton from "@/ui/AppButton.vue";
import AppNotice from "@/ui/AppNotice.vue";

const { t } = useI18n();
const router = useRouter();
const job = useJob();
const stage = useStage();
const tries = useTryOuts();
const nameOf = useTryOutName();
const EVENING_MIN = 120;
const tried = computed(() => tries.chosen?.tried ?? null);

async function take(): Promise<void> {
  const id = job.job?.id;
  const taken = tries.take();
  stage.openStep("colours");
  await router.push({ name: "bench", params: { id } });
  await taken;
}
</script>

<template>
  <aside class="tray" :aria-label="t('tryouts.title')">
    <template v-if="tries.chosen && tried">
      <h2>{{ tries.picked }}: {{ nameOf(tries.chosen) }}</h2>
      <p class="big"><b>{{ t("tryouts.likeness", { value: Math.round(tried.likeness) }) }}</b></p>
      <p>{{ t("tryouts.work", { minutes: Math.max(1, Math.round(tried.minutes)) }) }}</p>
      <p class="soft">
        {{ t("tryouts.facts", { pieces: tried.pieces, windows: tried.windows, nodes: tried.nodes, metres: (tried.cut_mm / 1000).toFixed(1) }) }}
      </p>
      <ul class="colours">
        <li v-for="(layer, i) in tried.layers" :key="i" :style="{ background: layer.colour }" :title="layer.colour" />
      </ul>
      <p v-if="tries.chosen.recipe.why">{{ t(`tryouts.why.${tries.chosen.recipe.why}`) }}</p>
      <AppNotice v-if="tried.minutes > EVENING_MIN" kind="note">{{ t("tryouts.evening") }}</AppNotice>
      <p v-if="tries.beaten.has(tries.picked)" class="soft">{{ t("tryouts.beaten") }}</p>
      <AppButton look="main" @click="take">{{ t("tryouts.take", { letter: tries.picked }) }}</AppButton>
      <p class="soft">{{ t("tryouts.taking") }}</p>
    </template>
    <template v-else>
      <h2>{{ t("tryouts.title") }}</h2>
      <p class="soft">{{ t("tryouts.none") }}</p>
    </template>
  </aside>
</template>

<style scoped>
.tray { padding: 14px 16px 14px 18px; display: flex; flex-direction: column; gap: 12px; min-height: 0; overflow-y: auto; }
h2 { font-size: 22px; }
.big { font: 600 18px var(--heading); }
.colours { list-style: none; display: flex; margin: 0; padding: 0; border: 1px solid var(--line); }
.colours li { flex: 1; height: 22px; }
</style>
