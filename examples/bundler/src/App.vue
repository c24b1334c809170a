<script setup>
import { ref } from "vue";
import RockCard from "./RockCard.vue";

const asked = ref(0);
</script>

<template>
  <img data-sarvel="banner" src="../masters/lamp-at-dusk.jpg" alt="The lamp of Brindle Rock lit at dusk">
  <main>
    <h1>Sleep under the light</h1>
    <p>The keepers have gone ashore; their cottage, four rooms and a stove, is let to walkers by the week.</p>
    <div class="cards">
      <RockCard title="How to reach us">
        <img data-sarvel="card" src="../masters/supply-boat.jpg" alt="The supply boat under way">
      </RockCard>
      <RockCard title="The morning watch">
        <img data-sarvel="card" src="../masters/keeper-at-the-rail.jpg" alt="A keeper at the rail, looking out to sea">
      </RockCard>
    </div>
    <button type="button" @click="asked++">Ask for a week ({{ asked }})</button>
  </main>
</template>
