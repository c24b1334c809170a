// Waits until the screen was drawn as often as the first argument says.
const [most, done] = arguments;
const passes = (left) => (left ? requestAnimationFrame(() => passes(left - 1)) : done());
passes(most);
