<?php
$a = "?><img data-sarvel='badge' src='../masters/seal.png'>";
/* ?><img data-sarvel="badge" src="../masters/seal.png"> */
$text = <<<END
?><img data-sarvel="badge" src="../masters/seal.png"> it's "here"
END;
# one line ?><img data-sarvel="banner" src="../masters/gull.jpg" alt="<?= '?>' === $a ? 'x' : 'A gull' ?>">
<p><?= strlen($a) > 3 ? "kept ?> whole" : '' ?></p>
