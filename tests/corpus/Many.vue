<template>
  <section>
    <img v-for="item in items" :key="item" data-sarvel="badge" src="../masters/seal.png" :alt="item" @click="a > b && go('x')" />
    <p>{{ a > b ? "<img>" : "none" }}</p>
  </section>
</template>
