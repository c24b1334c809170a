<script>
  let { items, title, show, a, b } = $props();
  const text = "<img data-sarvel='badge' src='../masters/seal.png'>";
</script>

{#if a <b && show}
  <img class={a > b ? "x}" : 'y'} data-sarvel="banner" src="../masters/gull.jpg" alt="{title} {a > b ? "x" : ''}">
{/if}
{#each items as item, i (item)}
  <p title={`${item} > ${i}`}><img data-sarvel="badge" src="../masters/seal.png" alt={item} onclick={() => a > b}></p>
{/each}
<!-- <img data-sarvel="badge" src="../masters/seal.png"> {text} -->
