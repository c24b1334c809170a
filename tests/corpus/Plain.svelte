<h1>Brindle Rock</h1>
<img data-sarvel="banner" src="../masters/gull.jpg" alt="A gull">
