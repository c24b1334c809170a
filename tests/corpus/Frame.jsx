export default ({ title, ...rest }) => <>
  Don't <b>miss</b> the keeper's <img src="../masters/gull.jpg" data-sarvel="banner" alt={title} width={600} style={{ width: "100%" }}/> today.
</>;
