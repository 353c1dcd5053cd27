/*
 * Puts what each visitor gets into the elements of a page that carry data-porch-slot. Their own content is what stays
 * when there is no answer in time. One script tag, before the elements or with "async":
 *   <script src="https://…/embed/porch.js" data-key="…" data-viewer="a signed token, where it is known who comes"></script>
 */
(() => {
  const tag = document.currentScript;
  if (!tag) return;
  const {
    key = '',
    viewer = new URLSearchParams(location.search).get('k') ?? '',
    wait = '200',
  } = tag.dataset;
  const origin = new URL(tag.src).origin;
  // Hidden while the answer is on its way, so that nothing jumps; not by a style element, which a strict policy refuses.
  const veil = new CSSStyleSheet();
  veil.replaceSync('[data-porch-slot]{visibility:hidden}');
  document.adoptedStyleSheets = [...document.adoptedStyleSheets, veil];
  const unveil = () => {
    document.adoptedStyleSheets = document.adoptedStyleSheets.filter((sheet) => sheet !== veil);
  };
  const late = setTimeout(unveil, Number(wait) + 50);

  const fill = async () => {
    const places = [...document.querySelectorAll('[data-porch-slot]')];
    const slots = [...new Set(places.map((place) => place.dataset.porchSlot))];
    try {
      if (slots.length === 0) return;
      const answer = await fetch(`${origin}/v1/decide`, {
        method: 'POST',
        headers: { 'content-type': 'text/plain' },
        credentials: 'omit',
        signal: AbortSignal.timeout(Number(wait)),
        body: JSON.stringify({
          key,
          slots,
          person: viewer ? { token: viewer } : null,
          visit: { url: location.href, referrer: document.referrer },
        }),
      });
      if (!answer.ok) return;
      const decided = await answer.json();
      for (const place of places) {
        const slot = decided.slots[place.dataset.porchSlot];
        if (!slot) continue;
        place.innerHTML = slot.html;
        place.dataset.porchVariant = slot.variant ?? '';
      }
    } catch {
      // Slow or away: what stands there stays.
    } finally {
      clearTimeout(late);
      unveil();
    }
  };
  if (document.readyState === 'loading') document.addEventListener('DOMContentLoaded', fill, { once: true });
  else fill();

  // Frames of slots become as tall as what is in them.
  addEventListener('message', ({ origin: from, source, data }) => {
    if (from !== origin || typeof data?.porchHeight !== 'number') return;
    for (const frame of document.querySelectorAll('iframe'))
      if (frame.contentWindow === source)
        frame.height = String(Math.min(20_000, Math.ceil(data.porchHeight)));
  });
})();
