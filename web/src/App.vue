<script setup lang="ts">
import { defineAsyncComponent, watch } from "vue";
import { RouterView, useRoute } from "vue-router";

import { useHelpKey } from "@/help/useHelp";
import AwayBar from "@/ui/AwayBar.vue";

const KeysDialog = defineAsyncComponent(() => import("@/help/KeysDialog.vue"));
const asked = useHelpKey();
const route = useRoute();
watch(() => route.name, () => (asked.value = false));
</script>

<template>
  <RouterView />
  <AwayBar />
  <KeysDialog v-if="asked" v-model="asked" />
</template>
