<script setup lang="ts">
/** A line of text that is kept when it is left or Enter is pressed, and put back by Escape. */
import InputText from "primevue/inputtext";
import { ref, watch } from "vue";

const props = defineProps<{ label: string; value: string; longest?: number }>();
const emit = defineEmits<{ settle: [value: string] }>();
const draft = ref(props.value);
watch(() => props.value, (value) => (draft.value = value));

function keep(): void {
  const text = draft.value.trim();
  if (!text) draft.value = props.value;
  else if (text !== props.value) emit("settle", text);
}
function back(event: KeyboardEvent): void {
  draft.value = props.value;
  (event.target as HTMLElement).blur();
}
</script>

<template>
  <InputText
    v-model="draft"
    :aria-label="label"
    :maxlength="longest ?? 80"
    size="small"
    @blur="keep"
    @keydown.enter="($event.target as HTMLElement).blur()"
    @keydown.esc.stop="back"
  />
</template>
