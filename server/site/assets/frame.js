/* Tells the page around this frame how tall its content is, now and whenever that changes. */
(() => {
  const tell = () => parent.postMessage({ porchHeight: document.documentElement.scrollHeight }, '*');
  new ResizeObserver(tell).observe(document.body);
  addEventListener('load', tell);
  tell();
})();
