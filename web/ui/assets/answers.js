// Writing a text that people read: after “{” a menu offers the questions, and the one that
// is picked stands there with its key. The menu goes by keys alone as well.
(() => {
  const takes = (field) => field.matches?.("input:not([type=checkbox]):not([type=radio]), textarea")
    && (field.hasAttribute("data-answers") || field.form?.elements.namedItem("property")?.hasAttribute?.("data-answers"));
  const names = () => [...document.querySelectorAll("#subjects option")].map((o) => ({ label: o.value, key: o.textContent }));
  let menu = null, field = null, at = 0; // the place behind the brace
  let picked = null; // the field that an Enter has just filled, which is not to be sent by it

  const close = () => {
    menu?.remove();
    menu = null;
    field?.removeAttribute("aria-controls");
    field?.removeAttribute("aria-activedescendant");
    field = null;
  };
  // origin is where the places of something that stands absolutely are counted from.
  const origin = (placed) => {
    const parent = placed.offsetParent, held = parent && getComputedStyle(parent).position !== "static";
    const box = (held ? parent : document.documentElement).getBoundingClientRect();
    return held ? { left: box.left + parent.clientLeft - parent.scrollLeft, top: box.top + parent.clientTop - parent.scrollTop } : box;
  };
  const options = () => [...menu.querySelectorAll("[role=option]")];
  const mark = (option) => {
    for (const o of options()) o.setAttribute("aria-selected", String(o === option));
    field.setAttribute("aria-activedescendant", option.id);
    option.scrollIntoView({ block: "nearest" });
  };
  const marked = () => menu.querySelector("[aria-selected=true]");
  const pick = (option) => {
    const into = field, key = option.dataset.key + "}";
    into.setRangeText(key, at, into.selectionStart, "end");
    if (into.value[into.selectionStart] === "}") into.setRangeText("", into.selectionStart, into.selectionStart + 1, "end");
    close();
    into.dispatchEvent(new Event("input", { bubbles: true }));
  };
  const open = (control) => {
    const before = control.value.slice(0, control.selectionStart), brace = before.lastIndexOf("{");
    const typed = before.slice(brace + 1);
    if (brace < 0 || before[brace - 1] === "{" || /[}{\n]/.test(typed) || typed.length > 40) {
      close();
      return;
    }
    const wanted = typed.toLowerCase(), says = (n) => (n.label + " " + n.key).toLowerCase();
    const fits = names().filter((n) => says(n).includes(wanted)).sort((a, b) => Number(says(b).startsWith(wanted)) - Number(says(a).startsWith(wanted))).slice(0, 12);
    close();
    if (!fits.length) return;
    field = control;
    at = brace + 1;
    menu = document.createElement("ul");
    menu.id = "answers-menu";
    menu.className = "answers-menu";
    menu.setAttribute("role", "listbox");
    menu.setAttribute("aria-label", "Answers to insert");
    fits.forEach((n, i) => {
      const option = document.createElement("li");
      option.id = "answer-" + i;
      option.setAttribute("role", "option");
      option.dataset.key = n.key;
      option.textContent = n.label;
      menu.append(option);
    });
    (control.closest("main, aside, dialog") ?? document.body).append(menu); // a landmark holds it, as it holds its field
    const below = control.getBoundingClientRect(), home = origin(menu);
    menu.style.left = below.left - home.left + "px";
    menu.style.top = below.bottom - home.top + 4 + "px";
    control.setAttribute("aria-controls", menu.id);
    mark(options()[0]);
  };

  document.addEventListener("input", (event) => { if (takes(event.target)) open(event.target); });
  document.addEventListener("focusout", (event) => { if (event.target === field) close(); });
  document.addEventListener("mousedown", (event) => { // before the field is left, or it would be saved half
    const option = menu && event.target.closest?.("#answers-menu [role=option]");
    if (!option) return;
    event.preventDefault();
    pick(option);
  });
  document.addEventListener("keypress", (event) => {
    if (event.key === "Enter" && event.target === picked) event.preventDefault();
  }, true);
  document.addEventListener("keyup", () => { picked = null; }, true);
  document.addEventListener("keydown", (event) => {
    if (!menu || event.target !== field) return;
    if (event.key === "Enter") picked = field;
    const all = options(), n = all.indexOf(marked());
    if (event.key === "ArrowDown") mark(all[(n + 1) % all.length]);
    else if (event.key === "ArrowUp") mark(all[(n + all.length - 1) % all.length]);
    else if (event.key === "Enter" || event.key === "Tab") pick(marked());
    else if (event.key === "Escape") close();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }, true);
})();
