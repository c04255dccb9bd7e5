// The board of hold lines: times and bars grow between the changes that the page is told of.

function seconds(since) { return Math.max(0, (Date.now() - Date.parse(since)) / 1000); }

setInterval(() => {
  for (const one of document.querySelectorAll("#board [data-since]")) {
    const whole = Math.floor(seconds(one.dataset.since));
    one.textContent = `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
  }
  for (const bar of document.querySelectorAll("#board [data-from]")) {
    bar.setAttribute("width", Math.min(200, 200 * seconds(bar.dataset.from) / (Number(bar.dataset.limit) || 300)).toFixed(1));
  }
}, 1000);
