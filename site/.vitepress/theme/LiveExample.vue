<script setup>
import { withBase } from 'vitepress';
import { ref } from 'vue';

const { folder } = defineProps({ folder: String, label: String });
// It draws from the press of a button on: a page of text should not warm the machine.
const isRunning = ref(false);
const address = withBase(`/live/${folder}/index.html`);
</script>

<template>
  <figure class="live">
    <iframe v-if="isRunning" :src="address" :title="label" loading="lazy" allow="fullscreen"></iframe>
    <button v-else type="button" @click="isRunning = true">
      <img
        :src="withBase(`/live/pictures/${folder}.webp`)"
        :alt="label"
        @error="$event.target.hidden = true"
      />
      <span>Run</span>
    </button>
    <figcaption><a :href="address" target="_blank">Open it by itself</a></figcaption>
  </figure>
</template>
