<script setup lang="ts">
/** The fonts, each name in its own letters; and the way to bring in one's own. */
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { ApiError } from "@/api/client";
import type { Font } from "@/api/types";
import { useErrorWords } from "@/composables/useErrorWords";
import { familyOf, useFonts } from "@/composables/useFonts";
import AppNotice from "@/ui/AppNotice.vue";

const props = defineProps<{ value: string }>();
const emit = defineEmits<{ move: [font: string]; settle: [font: string] }>();
const { t } = useI18n();
const { fonts, bringIn } = useFonts();
const words = useErrorWords();
const shown = ref(false);
const refused = ref("");
const chosen = computed(() => fonts.value.find((font) => font.id === props.value));

function choose(font: Font): void {
  shown.value = false;
  if (font.id !== props.value) emit("settle", font.id);
}
async function own(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement;
  const [file] = input.files ?? [];
  input.value = "";
  refused.value = "";
  if (!file) return;
  try {
    choose(await bringIn(file));
  } catch (reason) {
    refused.value = words(reason as ApiError);
  }
}
</script>

<template>
  <div class="fonts">
    <span class="label">{{ t("arrange.letter.font") }}</span>
    <button type="button" class="chosen" :aria-expanded="shown" @click="shown = !shown">
      <span :style="{ fontFamily: familyOf(value) }">{{ chosen?.name ?? value }}</span>
      <small class="soft">{{ chosen ? t(`arrange.letter.styles.${chosen.style}`) : "" }}</small>
    </button>
    <ul v-if="shown" class="all" role="listbox" :aria-label="t('arrange.letter.font')">
      <li v-for="font in fonts" :key="font.id">
        <button type="button" role="option" :aria-selected="font.id === value" :class="{ on: font.id === value }" @mouseenter="emit('move', font.id)" @focus="emit('move', font.id)" @click="choose(font)">
          <span :style="{ fontFamily: familyOf(font.id) }">{{ font.name }}</span>
          <small class="soft">{{ t(`arrange.letter.styles.${font.style}`) }}</small>
        </button>
      </li>
      <li class="own">
        <label>{{ t("arrange.letter.ownFont") }}<input type="file" accept=".ttf,.otf,font/ttf,font/otf" class="visually-hidden" @change="own" /></label>
      </li>
    </ul>
    <AppNotice v-if="refused" kind="error">{{ refused }}</AppNotice>
  </div>
</template>

<style scoped>
.fonts { display: grid; gap: 6px; }
.label { font-weight: 700; }
button { display: flex; justify-content: space-between; align-items: baseline; gap: 8px; width: 100%; padding: 5px 9px; border: 1px solid transparent; background: none; cursor: pointer; text-align: left; color: var(--ink); }
button > span { font-size: 18px; line-height: 1.25; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.chosen { border-color: var(--line); background: var(--paper); }
.chosen::after { content: "▾"; color: var(--soft); }
.all { list-style: none; margin: 0; padding: 0; border: 1px solid var(--line); background: var(--card); max-height: 236px; overflow-y: auto; }
.all button:hover, .all button:focus-visible { background: var(--hover); }
.all button.on { box-shadow: inset 3px 0 0 var(--seam); }
.own { border-top: 1px dashed var(--stitch); }
.own label { display: block; padding: 8px 9px; cursor: pointer; text-decoration: underline; text-decoration-color: var(--stitch); text-underline-offset: 3px; }
.own label:focus-within { outline: 2px solid var(--seam); }
</style>
