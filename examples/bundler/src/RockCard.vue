<script setup>
defineProps({ title: { type: String, required: true } });
</script>

<template>
  <article>
    <slot />
    <h2>{{ title }}</h2>
  </article>
</template>
