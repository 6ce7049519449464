// The table of responses: how many are marked is said, all can be marked at once, and the
// keys j and k go from one response to the next. A picture of a summary becomes a PNG.
(() => {
  const marks = () => [...document.querySelectorAll("input[name=marked]")];
  const tell = () => {
    const said = document.querySelector("[data-marked]"), n = marks().filter((m) => m.checked).length;
    const text = n + " marked";
    if (said && n && said.textContent !== text) said.textContent = text;
  };
  document.addEventListener("change", (event) => {
    if (event.target.matches?.("[data-marks]")) for (const mark of marks()) mark.checked = event.target.checked;
    if (event.target.matches?.("[data-marks], input[name=marked]")) tell();
  });
  document.addEventListener("keydown", (event) => {
    if (!["j", "k"].includes(event.key) || event.ctrlKey || event.metaKey || event.altKey
      || event.target.matches?.("input:not([type=checkbox]), textarea, select")) return;
    const rows = [...document.querySelectorAll(".row-link")];
    if (rows.length) {
      const at = rows.findIndex((row) => row === document.activeElement || row.closest("tr") === document.activeElement?.closest?.("tr"));
      const next = rows[Math.min(rows.length - 1, Math.max(0, at + (event.key === "j" ? 1 : -1)))];
      next.focus();
      next.scrollIntoView({ block: "nearest" });
      if (document.querySelector("#beside [data-response]")) next.click(); // the one that is open goes along
      return;
    }
    document.querySelector(event.key === "j" ? "a[rel=next]" : "a[rel=prev]")?.click();
  });
  const offer = () => { for (const link of document.querySelectorAll("a[data-png]")) link.hidden = false; };
  document.addEventListener("DOMContentLoaded", offer);
  document.addEventListener("htmx:after:swap", offer);
  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("a[data-png]");
    if (!link) return;
    event.preventDefault();
    const picture = new Image();
    picture.onload = () => {
      const canvas = document.createElement("canvas"), pen = canvas.getContext("2d");
      canvas.width = 2 * picture.naturalWidth;
      canvas.height = 2 * picture.naturalHeight;
      pen.fillStyle = "#fff";
      pen.fillRect(0, 0, canvas.width, canvas.height);
      pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
      canvas.toBlob((blob) => {
        const to = document.createElement("a");
        to.href = URL.createObjectURL(blob);
        to.download = link.dataset.png;
        to.click();
        setTimeout(() => URL.revokeObjectURL(to.href), 10000);
      }, "image/png");
    };
    picture.src = link.href;
  });
})();
