// Runs before anything of a page: counts layout shift (Layout Instability, section 2.3).
new PerformanceObserver((list) => {
  for (const entry of list.getEntries()) if (!entry.hadRecentInput) window.sarvelShift = (window.sarvelShift || 0) + entry.value;
}).observe({ type: "layout-shift", buffered: true });
