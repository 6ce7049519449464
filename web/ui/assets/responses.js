// The table of responses: how many are marked is said, all can be marked at once, and the
// keys j and k go from one response to the next.
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
})();
