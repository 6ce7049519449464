// Finding in the manuscript: what is typed is looked for in labels, keys, texts and ties,
// and Enter opens what was found. Everything stands in the page already, so that nothing is
// asked of the server.
(() => {
  const SHOWN = 40;
  const plain = (text) => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
  const words = (node) => (node?.textContent ?? "").replace(/\s+/g, " ").trim();

  // rows are all lines that can be opened, with what they say.
  const rows = () => [...document.querySelectorAll("#doc .row[id]")].map((row) => {
    const open = row.querySelector("[name=property][value=label], [name=property][value=title]")?.form?.elements.value;
    const label = words(row.querySelector(".pick-row")) || open?.value || row.id.slice(4);
    const more = [...row.querySelectorAll(".c, .m li, .remark")].map(words).filter(Boolean);
    return { row, label, more, text: plain([label, row.dataset.key ?? "", ...more].join(" ")) };
  });

  function close() { document.querySelector("dialog.find")?.remove(); }

  function open() {
    close();
    const all = rows(), box = document.createElement("dialog");
    box.className = "keys find";
    box.setAttribute("aria-label", "Find in the form");
    box.innerHTML = `<input class="find-words" type="search" role="combobox" aria-expanded="true" aria-controls="found" aria-label="Find in the form"
      placeholder="A question, a key, a word of a tie" autocomplete="off" spellcheck="false"><p role="status" class="find-said"></p><ul id="found" role="listbox"></ul>`;
    document.body.append(box);
    const field = box.querySelector("input"), list = box.querySelector("ul"), said = box.querySelector("p");
    let found = [], at = 0;
    const mark = () => {
      [...list.children].forEach((li, i) => li.setAttribute("aria-selected", String(i === at)));
      const on = list.children[at];
      field.setAttribute("aria-activedescendant", on?.id ?? "");
      on?.scrollIntoView({ block: "nearest" });
    };
    const look = () => {
      const asked = plain(field.value.replace(/^\//, "")).split(/\s+/).filter(Boolean);
      found = all.filter((one) => asked.every((word) => one.text.includes(word)));
      const first = (one) => (asked.every((word) => plain(one.label).includes(word)) ? 0 : 1);
      found.sort((a, b) => first(a) - first(b));
      list.replaceChildren(...found.slice(0, SHOWN).map((one, i) => {
        const li = document.createElement("li"), name = document.createElement("b"), why = document.createElement("span");
        li.id = "found-" + i;
        li.setAttribute("role", "option");
        name.textContent = one.label;
        why.textContent = one.more.find((text) => asked.some((word) => plain(text).includes(word))) ?? one.more[0] ?? "";
        li.append(name, why);
        li.addEventListener("click", () => go(one));
        return li;
      }));
      said.textContent = found.length > SHOWN ? `${found.length} found, the first ${SHOWN} are shown` : found.length === 1 ? "One found" : found.length ? `${found.length} found` : "Nothing here is like this";
      at = 0;
      mark();
    };
    const go = (one) => {
      close();
      one.row.scrollIntoView({ block: "center" });
      const link = one.row.querySelector(".pick-row");
      if (link) link.click(); else one.row.querySelector("input:not([type=hidden], .mark-box), textarea")?.focus();
    };
    field.addEventListener("input", look);
    box.addEventListener("keydown", (event) => {
      if (event.key === "ArrowDown" || event.key === "ArrowUp") {
        event.preventDefault();
        at = Math.max(0, Math.min(list.children.length - 1, at + (event.key === "ArrowDown" ? 1 : -1)));
        mark();
      } else if (event.key === "Enter" && found[at]) { event.preventDefault(); go(found[at]); }
      else if (event.key === "Escape") { event.preventDefault(); event.stopPropagation(); close(); } // at once, whatever was typed
    });
    box.addEventListener("close", close);
    box.showModal();
    look();
  }

  document.addEventListener("click", (event) => { if (event.target.closest?.("#find-in-form")) open(); });
})();
