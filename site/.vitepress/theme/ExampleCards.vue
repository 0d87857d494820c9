<script setup>
import { withBase } from 'vitepress';

defineProps({ pages: Array });
</script>

<template>
  <ul class="example-cards">
    <li v-for="{ about, folder, title } in pages" :key="folder">
      <a :href="withBase(`/examples/${folder}.html`)">
        <img
          :src="withBase(`/live/pictures/${folder}.webp`)"
          alt=""
          loading="lazy"
          @error="$event.target.hidden = true"
        />
        <strong>{{ title }}</strong>
        <span>{{ about }}</span>
      </a>
    </li>
  </ul>
</template>
