<script setup>
const markup = "<img data-sarvel='badge' src='../masters/seal.png'>";
defineProps(["items", "title", "show", "a", "b"]);
</script>

<template>
  <ul>
    <li v-for="item in items" :key="item">
      <img v-if="a < b && show" :key="item" data-sarvel="banner" src="../masters/gull.jpg" :alt="item + (a > b ? '!' : '')">
      <span v-else>{{ item }}</span>
    </li>
  </ul>
</template>

<style>li { content: "<img data-sarvel='badge'>" }</style>
