// What HTML and htmx cannot do for a form being filled: keep an appointment with
// the clock, and say when the connection is broken.
(() => {
  let timer;
  const appoint = () => {
    clearTimeout(timer);
    const form = document.getElementById("fill");
    const wait = Number(document.getElementById("clock")?.dataset.wait);
    if (form && wait > 0) timer = setTimeout(() => htmx.trigger(form, "clock"), wait);
  };
  const trouble = (broken) => {
    const note = document.getElementById("trouble");
    if (note) note.hidden = !broken;
  };
  document.addEventListener("htmx:error", () => trouble(true));
  document.addEventListener("htmx:after:swap", () => { trouble(false); appoint(); });
  // A second click while the first is under way would only send the same again.
  document.addEventListener("submit", (event) => {
    if (event.target.id !== "fill") return;
    if (event.target.dataset.sent) event.preventDefault();
    event.target.dataset.sent = "yes";
    setTimeout(() => delete event.target.dataset.sent, 4000);
  });
  // A long list of choices is narrowed by typing; without a script it is just long.
  const unhideSearch = () => { for (const find of document.querySelectorAll("[data-finds]")) find.hidden = false; };
  document.addEventListener("input", (event) => {
    const list = document.getElementById(event.target.dataset?.finds);
    if (!list) return;
    event.stopPropagation();
    const words = event.target.value.toLowerCase().split(/\s+/);
    for (const pick of list.children) pick.hidden = !pick.querySelector(":checked") && !words.every((word) => pick.textContent.toLowerCase().includes(word));
  }, true);
  document.addEventListener("htmx:after:swap", unhideSearch);
  document.addEventListener("DOMContentLoaded", () => {
    unhideSearch();
    appoint();
    document.getElementById("summary")?.focus();
  });
})();
