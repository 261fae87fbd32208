"use strict";
// The look book: all that it shows is in this file. Nothing is fetched, nothing is sent.
(() => {
  const book = JSON.parse(document.getElementById("told").textContent);
  const root = document.getElementById("book");
  const KEPT = `look book ${book.show}`;
  const state = { page: -1, view: 0, pair: false, wipe: false, left: 0, right: Math.min(1, book.pages.length - 1), at: 0.5 };
  let mine = { who: "", looks: {} };
  try {
    mine = { ...mine, ...JSON.parse(localStorage.getItem(KEPT) ?? "{}") };
  } catch {
    // A browser that keeps nothing for files: what is typed is there until the page is closed.
  }

  const make = (name, given = {}, ...inside) => {
    const made = document.createElement(name);
    for (const [key, value] of Object.entries(given)) {
      if (key.startsWith("on")) made.addEventListener(key.slice(2), value);
      else if (value !== null && value !== false) made.setAttribute(key, value === true ? "" : value);
    }
    made.append(...inside.flat().filter((one) => one !== null && one !== ""));
    return made;
  };
  const keep = () => {
    try {
      localStorage.setItem(KEPT, JSON.stringify(mine));
    } catch {
      // As above.
    }
    draw.counts();
  };
  const picture = (page, view) => {
    const url = book.pictures[`${page.id} ${view.id}`];
    const said = `Look ${page.number}, ${page.name}, ${view.name}`;
    return url ? make("img", { src: url, alt: said, draggable: "false" }) : make("div", { class: "missing" }, "no picture of this");
  };
  const first = (page) => book.views.find((view) => book.pictures[`${page.id} ${view.id}`]) ?? book.views[0] ?? { id: "", name: "" };
  const shown = (page) => book.views[state.view] ?? first(page);
  const lux = (value) => (value < 9.95 ? value.toFixed(1) : String(Math.round(value)));
  const when = (at) => {
    const moment = new Date(at);
    return at && !Number.isNaN(moment.getTime()) ? moment.toLocaleString([], { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" }) : "";
  };
  const own = (page) => (mine.looks[page.id] ??= { verdict: "", text: "", at: "" });
  const written = () => Object.values(mine.looks).filter((one) => one.verdict || one.text.trim()).length;

  const part = (title, ...inside) => (inside.flat().filter(Boolean).length ? [make("h3", {}, title), ...inside.flat().filter(Boolean)] : []);
  const note = (one, about = "") =>
    make("div", { class: "note" }, one.text || "Drawn on a picture", make("div", { class: "dim" }, [about, one.who, when(one.at), one.done ? "done" : "open"].filter(Boolean).join(" · ")),
      ...one.answers.map((answer) => make("div", {}, `↳ ${answer.text}`, make("span", { class: "dim" }, ` ${answer.who}`))));

  const facts = (page) => {
    const { standing } = page;
    return [
      make("h2", {}, `${page.number} `, page.name),
      page.when ? make("div", { class: "dim" }, page.when) : null,
      page.note ? make("p", {}, page.note) : null,
      make("div", { class: standing.verdict === "agreed" ? "good" : standing.verdict ? "off" : "dim" },
        [standing.agreed.length ? `agreed: ${standing.agreed.map((who) => who || "somebody").join(", ")}` : "", standing.not_yet.length ? `not yet: ${standing.not_yet.map((who) => who || "somebody").join(", ")}` : ""].filter(Boolean).join("; ") || "nothing said of it yet"),
      ...part("Lit", make("div", {}, `${page.lit}.`), make("ul", {}, page.groups.map((one) => make("li", {}, one)))),
      ...part("Light", page.light.length && make("table", {},
        make("tr", {}, ["", "mean lx", "least", "most", "wanted"].map((one) => make("th", {}, one))),
        page.light.map((one) => make("tr", {}, [one.area + (one.old ? " (of before)" : ""), lux(one.mean), lux(one.least), lux(one.most), one.wanted].map((text) => make("td", {}, text)))))),
      ...part("Notes", page.notes.map((one) => note(one)), page.drawn.map((id) => book.pictures[`${id} drawn`] && make("img", { src: book.pictures[`${id} drawn`], alt: "What was drawn", style: "width:100%;display:block;margin-top:6px" }))),
      write(page),
    ];
  };

  const write = (page) => {
    const said = own(page);
    const verdict = (word) => make("button", { type: "button", "aria-pressed": String(said.verdict === word), onclick: (event) => {
      said.verdict = said.verdict === word ? "" : word;
      said.at = new Date().toISOString();
      for (const one of event.target.parentElement.children) one.setAttribute("aria-pressed", String(one.textContent === said.verdict));
      keep();
    } }, word);
    const text = make("textarea", { "aria-label": `What you say of look ${page.number}`, placeholder: "What you say of it", oninput: (event) => {
      said.text = event.target.value;
      said.at = new Date().toISOString();
      keep();
    } });
    text.value = said.text;
    return make("div", { class: "write" }, make("h3", {}, "Yours"), make("div", { class: "row" }, verdict("agreed"), verdict("not yet")), text);
  };

  const sendBack = () => {
    const notes = [];
    for (const page of book.pages) {
      const said = own(page);
      const common = { by: mine.who.trim(), at: said.at || new Date().toISOString(), about: page.id, look: page.id };
      if (said.text.trim()) notes.push({ ...common, text: said.text.trim() });
      if (said.verdict) notes.push({ ...common, verdict: said.verdict });
    }
    const file = new Blob([JSON.stringify({ format: "look book notes", version: 1, show: book.show, title: book.title, notes }, null, 1)], { type: "application/json" });
    const link = make("a", { href: URL.createObjectURL(file), download: `notes on ${book.title}${mine.who ? ` by ${mine.who}` : ""}.json`.replace(/[^\w ,.'-]/g, "") });
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 20000);
  };

  const chooser = (label, value, set) => {
    const made = make("select", { "aria-label": label, onchange: (event) => { set(Number(event.target.value)); draw.all(); } },
      book.pages.map((page, i) => make("option", { value: String(i), selected: i === value }, `${page.number} ${page.name}`)));
    made.style.cssText = "font:inherit;color:inherit;background:var(--ink2);border:1px solid var(--line);border-radius:5px;padding:5px";
    return made;
  };

  const compared = () => {
    const [a, b] = [book.pages[state.left], book.pages[state.right]];
    if (!a || !b) return make("div", { class: "pair dim" }, "There are not two looks to compare.");
    const view = shown(a);
    const head = make("div", { class: "row" }, chooser("Look on the left", state.left, (i) => (state.left = i)), chooser("Look on the right", state.right, (i) => (state.right = i)),
      make("button", { type: "button", "aria-pressed": String(state.wipe), onclick: () => { state.wipe = !state.wipe; draw.all(); } }, "wipe"));
    if (!state.wipe) return make("div", { class: "pair" }, head, make("div", { class: "beside", style: "margin-top:8px" }, picture(a, view), picture(b, view)));
    const over = picture(a, view);
    const edge = make("div", { class: "edge", role: "separator", "aria-label": "Where one look ends and the other begins", tabindex: "0" });
    const move = (share) => {
      state.at = Math.min(Math.max(share, 0), 1);
      over.style.clipPath = `inset(0 ${(1 - state.at) * 100}% 0 0)`;
      edge.style.left = `${state.at * 100}%`;
      edge.setAttribute("aria-valuenow", String(Math.round(state.at * 100)));
    };
    const box = make("div", { class: "wipe", style: "margin-top:8px" }, picture(b, view), over, edge);
    const to = (event) => move((event.clientX - box.getBoundingClientRect().left) / box.getBoundingClientRect().width);
    box.addEventListener("pointerdown", (event) => { box.setPointerCapture(event.pointerId); to(event); });
    box.addEventListener("pointermove", (event) => event.buttons === 1 && to(event));
    edge.addEventListener("keydown", (event) => {
      if (event.key !== "ArrowLeft" && event.key !== "ArrowRight") return;
      move(state.at + (event.key === "ArrowLeft" ? -0.02 : 0.02));
      event.stopPropagation();
    });
    move(state.at);
    return make("div", { class: "pair" }, head, box);
  };

  const pages = book.pages.map((page) => ({
    page,
    box: make("section", { class: "look", "aria-label": `Look ${page.number}, ${page.name}` },
      make("div", {},
        book.views.map((view) => make("figure", { class: "seen", "data-view": view.id }, picture(page, view), make("figcaption", {}, view.name))),
        book.pictures[`${page.id} before`] ? make("figure", { class: "seen", "data-view": "before" }, make("img", { src: book.pictures[`${page.id} before`], alt: `Look ${page.number} at the last review` }), make("figcaption", {}, `as it was: ${book.since}`)) : null),
      make("div", {}, facts(page))),
  }));

  const count = make("span", { class: "dim", role: "status" });
  const who = make("input", { "aria-label": "Your name", placeholder: "Your name", size: "14", oninput: (event) => { mine.who = event.target.value; keep(); } });
  who.value = mine.who;
  const go = (to) => {
    state.page = Math.min(Math.max(to, -1), book.pages.length - 1);
    state.pair = false;
    draw.all();
    scrollTo(0, 0);
  };
  const bar = make("nav", { "aria-label": "The book" });
  const overview = make("div", { class: "thumbs" }, book.pages.map((page, i) => make("button", { type: "button", onclick: () => go(i) }, picture(page, first(page)), make("div", {}, `${page.number} ${page.name}`, page.standing.verdict ? make("span", { class: page.standing.verdict === "agreed" ? "good" : "off" }, ` ${page.standing.verdict}`) : null))));
  const ending = make("div", { class: "plain" },
    part(book.since ? `What changed since: ${book.since}` : "", book.changes.length ? make("ul", {}, book.changes.map((one) => make("li", {}, one.text))) : book.since && make("div", { class: "dim" }, "Nothing.")),
    part("Other notes", book.notes.map(([one, about]) => note(one, about))));
  const between = make("div");
  root.append(make("header", {}, make("h1", {}, book.title), make("div", { class: "dim" }, [book.venue, `look book of ${book.date}`, `${book.pages.length} looks`].filter(Boolean).join(" · ")),
    make("div", { class: "dim only-screen", style: "font-size:13px" }, "Left, right: look by look · 1 to 9: viewpoint · C: two looks · W: wipe · Esc: all of them")), bar, overview, between, ...pages.map((one) => one.box), ending);

  const draw = {
    counts: () => {
      const n = written();
      count.textContent = n ? `you say something of ${n} ${n === 1 ? "look" : "looks"}` : "";
    },
    all: () => {
      const at = book.pages[state.page];
      bar.replaceChildren(
        make("button", { type: "button", "aria-pressed": String(state.page < 0 && !state.pair), onclick: () => go(-1) }, "All looks"),
        make("button", { type: "button", disabled: state.page <= 0, onclick: () => go(state.page - 1) }, "← before"),
        make("button", { type: "button", disabled: state.page >= book.pages.length - 1, onclick: () => go(state.page + 1) }, "next →"),
        make("button", { type: "button", "aria-pressed": String(state.pair), onclick: () => { state.pair = !state.pair; draw.all(); } }, "Two looks"),
        ...book.views.map((view, i) => make("button", { type: "button", "aria-pressed": String(i === state.view), onclick: () => { state.view = i; draw.all(); } }, `${i + 1} ${view.name}`)),
        make("span", { class: "space" }), count, who,
        make("button", { type: "button", onclick: sendBack, title: "A small file to send back: the program reads it in" }, "Save what I say"));
      overview.hidden = state.page >= 0 || state.pair;
      overview.style.display = overview.hidden ? "none" : "";
      ending.style.display = state.page >= 0 || state.pair ? "none" : "";
      between.replaceChildren(...(state.pair ? [compared()] : []));
      pages.forEach(({ box }, i) => {
        box.classList.toggle("shown", i === state.page && !state.pair);
        for (const figure of box.querySelectorAll(".seen")) figure.classList.toggle("shown", figure.dataset.view === "before" || figure.dataset.view === (book.views[state.view]?.id ?? ""));
      });
      document.title = at && !state.pair ? `${at.number} ${at.name}: ${book.title}` : `${book.title}: look book, ${book.date}`;
      draw.counts();
    },
  };
  addEventListener("keydown", (event) => {
    if (/^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName) || event.ctrlKey || event.metaKey || event.altKey) return;
    const key = event.key.toLowerCase();
    if (key === "arrowright") go(state.page + 1);
    else if (key === "arrowleft") go(state.page - 1);
    else if (key === "escape") go(-1);
    else if (key === "c" || key === "w") {
      state.wipe = key === "w";
      state.pair = key === "w" || !state.pair;
      draw.all();
    } else if (/^[1-9]$/.test(key) && book.views[Number(key) - 1]) {
      state.view = Number(key) - 1;
      draw.all();
    } else return;
    event.preventDefault();
  });
  draw.all();
})();
