<script setup lang="ts">
/** Words: what they say, in which font, how large, along what. */
import { computed, onBeforeUnmount, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { useMadeControl } from "@/composables/useMadeControl";
import { useArrange } from "@/stores/arrange";
import AppCheck from "@/ui/AppCheck.vue";
import AppChoice from "@/ui/AppChoice.vue";
import AppNotice from "@/ui/AppNotice.vue";
import AppSlider from "@/ui/AppSlider.vue";
import AppTextArea from "@/ui/AppTextArea.vue";
import ColourWell from "@/ui/ColourWell.vue";

import FontPicker from "./FontPicker.vue";

const REST_MS = 700; // after which typed words are kept as one step
const { t } = useI18n();
const arrange = useArrange();
const { id, made, move, settle } = useMadeControl("lettering");
const draft = ref(made.value?.text ?? "");
watch(() => made.value?.text, (text) => { if (text !== undefined && timer === undefined) draft.value = text; });
const missing = computed(() => arrange.resultOf(id.value)?.missing ?? "");
const severalLines = computed(() => draft.value.includes("\n"));
const alongs = (["straight", "arc", "circle"] as const).map((value) => ({ value, label: t(`arrange.letter.${value}`) }));
const aligns = (["left", "middle", "right"] as const).map((value) => ({ value, label: t(`arrange.letter.${value}`) }));

let timer: ReturnType<typeof setTimeout> | undefined;
function typed(): void {
  if (draft.value.trim()) move({ text: draft.value });
  clearTimeout(timer);
  timer = setTimeout(keep, REST_MS);
}
function keep(): void {
  if (timer === undefined) return;
  clearTimeout(timer);
  timer = undefined;
  if (!draft.value.trim()) draft.value = made.value?.text ?? "";
  else if (draft.value !== made.value?.text) settle({ text: draft.value }, "text");
}
onBeforeUnmount(keep);
</script>

<template>
  <div v-if="made" class="group">
    <AppTextArea v-model="draft" :label="t('arrange.letter.text')" :longest="2000" @move="typed" @settle="keep" />
    <AppNotice v-if="missing" kind="error">{{ t("arrange.letter.missing", { characters: [...missing].join(" ") }) }}</AppNotice>
    <FontPicker :value="made.font ?? 'nunito'" @move="move({ font: $event })" @settle="settle({ font: $event })" />
    <div class="row">
      <span>{{ t("arrange.colour") }}</span>
      <ColourWell :label="t('arrange.colour')" :value="made.colour ?? '#000000'" @move="move({ colour: $event })" @settle="settle({ colour: $event }, 'coloured')" />
    </div>
    <AppSlider
      :label="t('arrange.letter.capital')" :value="made.capital_mm ?? 15" :min="2" :max="200" :step="0.5" :digits="1" unit="mm" ratio
      :low="t('arrange.letter.small')" :high="t('arrange.letter.large')" @move="move({ capital_mm: $event })" @settle="settle({ capital_mm: $event }, 'sized')"
    />
    <AppSlider
      :label="t('arrange.letter.spacing')" :value="made.spacing_mm ?? 0" :min="-5" :max="15" :step="0.1" :digits="1" unit="mm"
      :low="t('arrange.letter.tight')" :high="t('arrange.letter.airy')" @move="move({ spacing_mm: $event })" @settle="settle({ spacing_mm: $event })"
    />
    <template v-if="severalLines">
      <AppSlider
        :label="t('arrange.letter.lines')" :value="made.line_height ?? 1" :min="0.5" :max="2.5" :step="0.05" :digits="2" unit="×"
        :low="t('arrange.letter.near')" :high="t('arrange.letter.far')" @move="move({ line_height: $event })" @settle="settle({ line_height: $event })"
      />
      <AppChoice :label="t('arrange.letter.align')" :options="aligns" :model-value="made.align ?? 'middle'" @update:model-value="settle({ align: $event })" />
    </template>
    <AppChoice :label="t('arrange.letter.along')" :options="alongs" :model-value="made.along ?? 'straight'" @update:model-value="settle({ along: $event })" />
    <template v-if="made.along !== 'straight'">
      <AppSlider
        :label="t('arrange.letter.radius')" :value="made.radius_mm ?? 40" :min="5" :max="500" :step="0.5" :digits="1" unit="mm" ratio
        :low="t('arrange.letter.small')" :high="t('arrange.letter.large')" @move="move({ radius_mm: $event })" @settle="settle({ radius_mm: $event })"
      />
      <AppCheck :label="t('arrange.letter.inward')" :value="made.inward ?? false" @settle="settle({ inward: $event })" />
    </template>
  </div>
</template>

<style scoped>
.group { display: grid; gap: 14px; border-top: 1px dashed var(--stitch); padding-top: 12px; }
.row { display: flex; justify-content: space-between; align-items: center; font-weight: 700; }
</style>
