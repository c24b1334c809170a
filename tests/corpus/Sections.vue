<docs>
An image: <img data-sarvel="badge" src="../masters/seal.png">
</docs>

<template>
  <figure v-if="show">
    <img data-sarvel="banner" src="../masters/gull.jpg" :alt="title">
    <template v-for="item in items" :key="item"><b>{{ item }}</b></template>
    <Img data-sarvel="badge" src="../masters/seal.png" />
  </figure>
</template>

<i18n>{ "en": "<img data-sarvel='badge' src='../masters/seal.png'>" }</i18n>
