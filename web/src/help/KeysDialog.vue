<script setup lang="ts">
/** A short sheet of keys. */
import { useI18n } from "vue-i18n";
import { RouterLink } from "vue-router";

import { help } from "@/i18n/help";
import AppDialog from "@/ui/AppDialog.vue";

const shown = defineModel<boolean>({ required: true });
const { t } = useI18n();
const groups = Object.keys(help.keys) as (keyof typeof help.keys)[];
</script>

<template>
  <AppDialog v-model="shown" :title="t('help.title')" wide>
    <div class="sheet">
      <section v-for="group in groups" :key="group">
        <h3>{{ t(`help.groups.${group}`) }}</h3>
        <dl>
          <div v-for="(_, i) in help.keys[group]" :key="i">
            <dt><kbd>{{ t(`help.keys.${group}[${i}][0]`) }}</kbd></dt>
            <dd>{{ t(`help.keys.${group}[${i}][1]`) }}</dd>
          </div>
        </dl>
      </section>
    </div>
    <template #actions><RouterLink class="how" :to="{ name: 'how' }">{{ t("help.how") }}</RouterLink></template>
  </AppDialog>
</template>

<style scoped>
.sheet { columns: 3 240px; column-gap: 28px; }
section { break-inside: avoid; margin-bottom: 16px; }
h3 { font-size: 14.5px; margin-bottom: 5px; }
dl { margin: 0; }
dl > div { display: grid; grid-template-columns: 84px minmax(0, 1fr); gap: 8px; padding: 2px 0; }
dt, dd { margin: 0; }
kbd { font: inherit; font-size: 12.5px; border: 1px solid var(--line); border-bottom-width: 2px; background: var(--paper); padding: 0 6px; border-radius: 3px; white-space: nowrap; }
.how { margin-right: auto; color: var(--ink); font-weight: 700; text-decoration-color: var(--stitch); text-underline-offset: 3px; }
</style>
