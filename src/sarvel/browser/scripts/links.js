// The paths of all pages of this site that the page links to.
const own = [...document.links].filter((link) => link.origin === location.origin);
return own.map((link) => link.pathname);
