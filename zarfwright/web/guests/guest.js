"use strict";
// Looks on: asks what is shown, and shows it. A guest changes nothing; a note is only taken where it is asked for.
(() => {
  const at = (id) => document.getElementById(id);
  const state = { follow: true, version: -1, told: null, roams: "" };
  const EVERY_MS = 700;

  const ask = async (path, body) => {
    const response = await fetch(path, body ? { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) } : {});
    const answer = await response.json().catch(() => ({}));
    if (!response.ok) throw new Error(answer.error ?? "That cannot be had.");
    return answer;
  };

  const options = (list, entries) => {
    const value = list.value;
    const key = JSON.stringify(entries);
    if (list.dataset.key === key) return;
    list.dataset.key = key;
    list.replaceChildren(...entries.map(([id, name]) => {
      const made = document.createElement("option");
      made.value = id;
      made.textContent = name;
      return made;
    }));
    if (entries.some(([id]) => id === value)) list.value = value;
  };

  const show = (url, said) => {
    at("picture").src = url;
    at("picture").alt = said;
    at("picture").hidden = false;
    at("waiting").hidden = true;
    at("said").textContent = said;
  };

  const draw = () => {
    const { told } = state;
    if (!told) return;
    at("title").textContent = told.title;
    document.title = `${told.title}: review`;
    at("note").hidden = !told.notes;
    if (document.activeElement !== at("name") && !at("name").value) at("name").value = told.you;
    const drawn = told.looks.filter((look) => look.seen.length);
    options(at("looks"), drawn.map((look) => [look.id, `${look.number} ${look.name}`]));
    const look = drawn.find((one) => one.id === at("looks").value);
    options(at("views"), told.views.filter((view) => look?.seen.includes(view.id)).map((view) => [view.id, view.name]));
    at("roam").hidden = !drawn.length;
    at("follow").setAttribute("aria-pressed", String(state.follow));
    if (state.follow) {
      if (told.version === state.version) return;
      state.version = told.version;
      state.roams = "";
      const said = [told.look && `Look ${told.look}`, told.viewpoint].filter(Boolean).join(", ");
      if (told.picture) show(`/picture?${told.version}`, said);
      else {
        at("picture").hidden = true;
        at("waiting").hidden = false;
      }
    } else if (look && at("views").value) {
      const roams = `/seen/${look.id}/${at("views").value}`;
      if (roams === state.roams) return;
      state.roams = roams;
      show(roams, `Look ${look.number} ${look.name}, ${at("views").selectedOptions[0]?.textContent ?? ""}`);
    }
  };

  const look = async () => {
    try {
      state.told = await ask("/told");
      draw();
    } catch (wrong) {
      at("said").textContent = wrong.message;
    }
    setTimeout(look, document.hidden ? EVERY_MS * 5 : EVERY_MS);
  };

  at("follow").addEventListener("click", () => {
    state.follow = true;
    state.version = -1;
    draw();
  });
  for (const list of ["looks", "views"]) {
    at(list).addEventListener("change", () => {
      state.follow = false;
      draw();
      draw();
    });
  }
  at("note").addEventListener("submit", (event) => {
    event.preventDefault();
    ask("/say", { text: at("text").value }).then(() => {
      at("text").value = "";
      at("said").textContent = "Your note is with the show.";
    }, (wrong) => (at("said").textContent = wrong.message));
  });
  at("me").addEventListener("submit", (event) => {
    event.preventDefault();
    ask("/name", { name: at("name").value }).then(() => (at("said").textContent = `You are ${at("name").value}.`), (wrong) => (at("said").textContent = wrong.message));
  });
  void look();
})();
