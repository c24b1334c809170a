<?php /* <img data-sarvel="badge" src="../masters/seal.png"> */ $wide = $a < $b; ?>
<body<?php if ($wide): ?> class="wide"<?php endif ?>>
<?php foreach ($items as $i => $item): ?>
  <img data-sarvel="badge" src="../masters/seal.png" alt="<?= htmlspecialchars("$i > $item") ?>">
<?php endforeach; ?>
<img data-sarvel="banner" src="../masters/gull.jpg" <?php if ($wide) { ?>id="top"<?php } ?>>
</body>
<?php echo '<img src="data:," alt="" width="1" height="1">';
