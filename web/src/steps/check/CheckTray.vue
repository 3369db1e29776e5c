<script setup lang="ts">
/** What to look at before cutting, with what mends it; and the stand-in cutter. */
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useErrorWords } from "@/composables/useErrorWords";
import { useCheck } from "@/stores/check";
import { useCutter } from "@/stores/cutter";
import { useJob } from "@/stores/job";
import AppButton from "@/ui/AppButton.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppFold from "@/ui/AppFold.vue";
import AppNotice from "@/ui/AppNotice.vue";

import CutterControls from "./CutterControls.vue";
import FindingGroup from "./FindingGroup.vue";
import LimitsTable from "./LimitsTable.vue";
import WorkNumbers from "./WorkNumbers.vue";

const { t } = useI18n();
const check = useCheck();
const cutter = useCutter();
const job = useJob();
const words = useErrorWords();
const looks = computed(() => (["findings", "cutter"] as const).map((value) => ({ value, label: t(`check.looks.${value}`) })));
const look = computed({ get: () => (cutter.wanted ? "cutter" : "findings"), set: (value) => (cutter.wanted = value === "cutter") });
const isOff = computed(() => ["failed", "stopped"].includes(job.work));
const graver = computed(() => check.groups.filter(({ severity }) => severity !== "note"));
const notes = computed(() => check.groups.filter(({ severity }) => severity === "note"));
const count = computed(() => notes.value.reduce((sum, { findings }) => sum + findings.length, 0));
</script>

<template>
  <AppChoice v-model="look" :label="t('check.look')" :options="looks" />
  <CutterControls v-if="cutter.active" />
  <template v-else>
    <AppNotice v-if="check.error" kind="error" :title="t('check.failed')">{{ words(check.error) }}</AppNotice>
    <p v-else-if="!check.found" class="soft" role="status">{{ t("check.working") }}</p>
    <template v-else>
      <div class="sum">
        <p role="status">{{ check.isFresh ? (check.found.to_look_at ? t("check.toLookAt", check.found.to_look_at) : t("check.clean")) : t(isOff ? "check.headOff" : "check.working") }}</p>
        <span v-if="check.found.findings.length > 1" class="ways">
          <AppButton small :title="t('check.previousKey')" @click="check.pickFollowing(-1)">{{ t("check.previous") }}</AppButton>
          <AppButton small :title="t('check.nextKey')" @click="check.pickFollowing(1)">{{ t("check.next") }}</AppButton>
        </span>
      </div>
      <FindingGroup v-for="group in graver" :key="group.code" :group="group" />
      <AppFold v-if="notes.length" :title="t('check.notes')" name="check-notes" :note="String(count)">
        <FindingGroup v-for="group in notes" :key="group.code" :group="group" />
      </AppFold>
      <AppFold v-if="check.ignored.length" :title="t('check.ignored')" name="check-ignored" :note="String(check.ignored.length)">
        <ul class="ignored">
          <li v-for="(one, i) in check.ignored" :key="i">
            {{ t(`check.codes.${one.finding.code}.title`) }}
            <AppButton small look="quiet" @click="check.heed(one)">{{ t("check.heed") }}</AppButton>
          </li>
        </ul>
      </AppFold>
      <WorkNumbers />
      <LimitsTable />
    </template>
  </template>
</template>

<style scoped>
.sum { display: flex; justify-content: space-between; align-items: center; gap: 8px; }
.sum p { font-weight: 700; }
.ways { display: flex; gap: 6px; }
.ignored { list-style: none; margin: 0; padding: 0; }
.ignored li { display: flex; justify-content: space-between; align-items: center; }
</style>
