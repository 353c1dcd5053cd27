/*
 * What the site does better with a script. Without it a countdown says what it said when the page came, and an open part of
 * the menu closes by its own button only.
 */
(() => {
  const said = (count, unit) => `${count} ${unit}${count === 1 ? '' : 's'}`;
  const left = (until, over) => {
    const minutes = Math.ceil((until - Date.now()) / 60_000);
    if (minutes <= 0) return over;
    const [days, hours] = [Math.floor(minutes / 1440), Math.floor(minutes / 60) % 24];
    const parts =
      days > 0
        ? [
            [days, 'day'],
            [hours, 'hour'],
          ]
        : [
            [hours, 'hour'],
            [minutes % 60, 'minute'],
          ];
    return parts
      .filter(([count]) => count > 0)
      .map(([count, unit]) => said(count, unit))
      .join(' and ');
  };
  const show = () => {
    for (const one of document.querySelectorAll('.countdown')) {
      const words = one.querySelector('.countdown-left');
      if (words) words.textContent = left(Date.parse(one.dataset.until), one.dataset.over);
    }
  };
  if (document.querySelector('.countdown')) {
    show();
    setInterval(show, 15_000);
  }
  const closeMenus = (except) => {
    for (const open of document.querySelectorAll('.site-menu-more[open]'))
      if (!open.contains(except)) open.open = false;
  };
  document.addEventListener('click', ({ target }) => closeMenus(target));
  document.addEventListener('keydown', ({ key }) => {
    if (key !== 'Escape') return;
    document.activeElement?.closest('.site-menu-more[open]')?.querySelector('summary')?.focus();
    closeMenus(null);
  });
})();
