<template>
  <my-frame><img slot="picture" data-sarvel="banner" src="../masters/gull.jpg" alt="A gull" v-show="a < b"></my-frame>
</template>
