// What counts when a field is left rather than at every key: a menu, in which the arrow
// keys pass over options that nobody chose, and a date or time, which browsers call changed
// while it is being typed, when its year is still 2 or 20.
(() => {
  const menus = ".ms select, #marked select, form.condition select";
  const dates = "input[type=date], input[type=time], input[type=datetime-local], input[type=month]";
  const passesBy = (field) => field.matches?.(menus) || field.matches?.(dates);
  const moves = (event) => /^(Arrow|Page|Home|End|Back|Delete)/.test(event.key) || event.key.length === 1 && event.key !== " ";

  let passing = null; // the field that the keyboard is in
  let passed = false; // and whether it says something else since; not on the field, which a page that is put in anew would clear
  document.addEventListener("keydown", (event) => {
    const field = event.target;
    if (!passesBy(field)) return;
    if (moves(event)) {
      if (passing !== field) passed = false;
      passing = field;
    } else if (event.key === "Enter" && passing === field) {
      if (savesItself(field)) event.preventDefault();
      chosen();
    }
  }, true);
  // A menu that opens and a calendar give a whole value at once.
  document.addEventListener("pointerdown", () => { passing = null; }, true);
  const savesItself = (field) => field.matches(menus) || field.closest("[hx-trigger*=change]");
  const chosen = () => {
    const field = passing;
    passing = null;
    if (!field || !passed) return;
    passed = false;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  };
  document.addEventListener("change", (event) => {
    const field = event.target;
    if (field === passing) {
      event.stopImmediatePropagation();
      passed = true;
    } else if (field.matches?.(dates) && strange(field)) {
      event.stopImmediatePropagation();
      ask(field);
    }
  }, true);
  document.addEventListener("focusout", (event) => { if (event.target === passing) chosen(); });

  // A year that is hardly meant is asked about once, before anything is made of it.
  const sure = new WeakMap(); // what was said to be right
  const year = (field) => Number(/^(\d+)-/.exec(field.value)?.[1]);
  const strange = (field) => !field.closest(".unit") && (year(field) < 1900 || year(field) > 2200) && sure.get(field) !== field.value;
  const asked = (field) => field.nextElementSibling?.matches(".ask-year") && field.nextElementSibling;
  const ask = (field) => {
    asked(field)?.remove();
    const box = document.createElement("span"), keep = document.createElement("button");
    box.className = "ask-year";
    box.setAttribute("role", "alert");
    box.append(`Is the year ${year(field)} right? `, keep);
    keep.type = "button";
    keep.className = "quiet";
    keep.textContent = `Keep ${year(field)}`;
    keep.addEventListener("click", () => {
      sure.set(field, field.value);
      box.remove();
      field.focus();
      field.dispatchEvent(new Event("change", { bubbles: true }));
    });
    field.after(box);
  };
  document.addEventListener("input", (event) => { if (event.target.matches?.(dates)) asked(event.target)?.remove(); });
  document.addEventListener("submit", (event) => {
    const odd = [...event.target.querySelectorAll(dates)].find((field) => strange(field));
    if (!odd) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    ask(odd);
    odd.focus();
  }, true);
})();
