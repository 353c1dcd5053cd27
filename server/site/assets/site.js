/* What the site does better with a script: countdowns count. Without it they say what they said when the page came. */
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
})();
