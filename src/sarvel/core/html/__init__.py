"""The parts of HTML that Sarvel reads and writes: tags in their exact place, candidates, image markup."""
