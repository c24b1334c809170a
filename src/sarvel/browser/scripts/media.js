// The media queries of all stylesheets that the page may read.
const found = [];
function walk(rules) {
  for (const rule of rules) {
    if (rule.media) found.push(rule.media.mediaText);
    if (rule.cssRules) walk(rule.cssRules);
    if (rule.styleSheet) tried(rule.styleSheet);
  }
}
function tried(sheet) {
  try {
    found.push(sheet.media.mediaText);
    walk(sheet.cssRules);
  } catch (_) {
    // of another origin
  }
}
[...document.styleSheets].forEach(tried);
return found;
