<script setup lang="ts">
import { computed, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { useStepControl } from "@/composables/useStepControl";
import { useJob } from "@/stores/job";
import { useTryOuts } from "@/stores/tryOuts";
import AppButton from "@/ui/AppButton.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSlider from "@/ui/AppSlider.vue";

import ChangeList from "./ChangeList.vue";
import FaceControls from "./FaceControls.vue";
import KindNote from "./KindNote.vue";
import LightTools from "./LightTools.vue";
import PageControls from "./PageControls.vue";
import PaletteList from "./PaletteList.vue";
import PhotoControls from "./PhotoControls.vue";
import PinPicker from "./PinPicker.vue";

const { t } = useI18n();
const router = useRouter();
const job = useJob();
const tries = useTryOuts();
const { settings, move, settle } = useStepControl("colours");
const facts = computed(() => job.facts?.colours);
const small = computed(() => facts.value?.palette.filter((entry) => entry.small).length ?? 0);
const isPhoto = computed(() => facts.value?.method === "tones");
// Once the full result is there nobody waits for the lane that try-outs are made on.
watch(() => isPhoto.value && job.work === "idle", (ready) => ready && void tries.prepare(), { immediate: true });
const openTryOuts = (): void => void router.push({ name: "try-outs", params: { id: job.job?.id } });
const intro = computed(() => {
  const now = facts.value;
  if (!now) return "";
  if (now.page) return t("page.intro");
  if (now.method === "ink") return t("colours.ink");
  if (now.method === "tones") return t("colours.tones", now.palette.length);
  const said = [t("colours.found", now.palette.length)];
  if (settings.value?.count == null) said.push(t("colours.why"));
  else if (settings.value.count === now.palette.length - 1) said.push(t("colours.askedBeside", { count: now.found }));
  else if (settings.value.count === now.palette.length) said.push(t("colours.asked", { count: now.found }));
  if (small.value) said.push(t("colours.smallOnes", small.value));
  return said.join(" ");
});
const nameOf = (key: unknown): string => facts.value?.palette.find((entry) => entry.key === key)?.name ?? String(key);
interface Said {
  text: string;
  merge?: () => void;
}
const notes = computed<Said[]>(() =>
  [...job.findings, ...job.makeFindings].flatMap(({ code, details: values }): Said[] => {
    const names = { one: nameOf(values.one), other: nameOf(values.other) };
    if (code === "fewer_colours" || code === "speckled") return [{ text: t(`findings.${code}`, values) }];
    if (code === "joined") return [{ text: t("findings.joined", { ...names, one: `${String(values.name)} (${String(values.one)})` }) }];
    if (["blurred", "flat_light", "like_ground", "much_work", "tidied"].includes(code)) return [{ text: t(`findings.${code}`, values) }];
    if (code === "bridges") return [{ text: t("findings.bridges", Number(values.count)) }];
    if (code === "spots_left_out") return [{ text: t("findings.spots_left_out", Number(values.count)) }];
    if (code === "pin_unused") return [{ text: t("findings.pin_unused", values) }];
    if (code !== "near_alike") return [];
    const text = t("findings.near_alike", { ...names, difference: String(values.difference) });
    return [{ text, merge: () => mergeThem(String(values.other), String(values.one)) }];
  }),
);
const missed = computed(
  () => (job.findings.find((finding) => finding.code === "palette_changes_left_out")?.details.numbers ?? []) as number[],
);

function mergeThem(colour: string, into: string): void {
  const one = { kind: "merge" as const, colour, into, x: null, y: null, ring: [] };
  settle({ palette_changes: [...(settings.value?.palette_changes ?? []), one] });
}
</script>

<template>
  <KindNote v-if="settings" :facts="facts" :settings="settings" @settle="settle" />
  <p class="soft told">{{ facts && settings?.kind === "auto" ? t(`kindWords.${facts.reason}`) : "" }} {{ intro }}</p>
  <PageControls v-if="facts?.page && settings" :page="facts.page" :settings="settings" @move="move" @settle="settle" />
  <AppButton v-if="!facts?.page" small :look="isPhoto ? 'main' : 'plain'" @click="openTryOuts">{{ t("photo.tryOuts") }}</AppButton>
  <AppSlider
    v-if="settings && facts && facts.method !== 'ink' && !isPhoto"
    :label="t('colours.count')"
    :value="settings.count ?? facts.palette.length"
    :min="1"
    :max="Math.max(12, facts.found)"
    :step="1"
    :low="t('colours.fewer')"
    :high="t('colours.more')"
    @move="move({ count: $event })"
    @settle="settle({ count: $event })"
  />
  <AppButton v-if="settings?.count != null && !isPhoto" small @click="settle({ count: null })">{{ t("colours.auto") }}</AppButton>
  <PhotoControls v-if="isPhoto && facts && settings" :facts="facts" :settings="settings" @move="move" @settle="settle">
    <LightTools :settings="settings" />
  </PhotoControls>
  <FaceControls v-if="isPhoto && facts && settings && settings.treatment !== 'silhouette'" :faces="facts.faces" :settings="settings" />
  <template v-if="facts && settings">
    <PaletteList :palette="facts.palette" :layers="job.result?.layers ?? []" :settings="settings" @settle="settle">
      <AppSlider
        v-if="!isPhoto && !facts.page"
        :label="t('colours.shades')"
        :value="settings.shades"
        :min="1"
        :max="12"
        :step="1"
        :low="t('colours.asFound')"
        :high="t('colours.manySteps')"
        @move="move({ shades: $event })"
        @settle="settle({ shades: $event })"
      />
      <PinPicker :settings="settings" />
    </PaletteList>
    <ChangeList :settings="settings" :missed="missed" @settle="settle" />
    <AppNotice v-for="({ text, merge }, i) in notes.slice(0, 4)" :key="i" kind="note">
      {{ text }}
      <template v-if="merge" #actions><AppButton small @click="merge">{{ t("palette.mergeThem") }}</AppButton></template>
    </AppNotice>
    <p v-if="facts.absorbed" class="soft">{{ t("colours.absorbed", facts.absorbed) }}</p>
  </template>
</template>
