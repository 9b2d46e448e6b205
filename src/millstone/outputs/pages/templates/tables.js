"use strict";
(function () {
  function element(name, text, into) {
    const made = document.createElement(name);
    if (text) { made.textContent = text; }
    if (into) { into.appendChild(made); }
    return made;
  }

  function cellsOf(table) { return Array.from(table.tHead.rows[0].cells); }

  // the text of a row without its heading, and the value of a cell: the whole number where the text is rounded
  function textOf(cell) { return cell.dataset.v || cell.textContent; }

  function numberOf(cell) {
    const value = parseFloat(textOf(cell).replace(/,/g, "").replace(/^</, ""));
    return Number.isNaN(value) ? null : value;
  }

  function bodyRows(body) { return Array.from(body.rows).filter((row) => !row.dataset.heading); }

  function compare(one, other, isNumber, sign) {
    if (one === other) { return 0; }
    if (one === null || one === "") { return 1; }
    if (other === null || other === "") { return -1; }
    return sign * (isNumber ? one - other : one.localeCompare(other, undefined, { numeric: true }));
  }

  function sort(table, head, status) {
    const at = head.cellIndex, isNumber = !head.classList.contains("t");
    const first = isNumber ? "descending" : "ascending";
    const before = head.getAttribute("aria-sort");
    const order = before === "none" ? first : before === "ascending" ? "descending" : "ascending";
    cellsOf(table).forEach((cell) => cell.setAttribute("aria-sort", cell === head ? order : "none"));
    const sign = order === "ascending" ? 1 : -1;
    Array.from(table.tBodies).forEach((body) => {
      const rows = bodyRows(body).map((row, place) => {
        const cell = row.cells[at];
        return { row, place, key: isNumber ? numberOf(cell) : textOf(cell) };
      });
      rows.sort((one, other) => compare(one.key, other.key, isNumber, sign) || one.place - other.place);
      rows.forEach((one) => body.appendChild(one.row));
    });
    status.textContent = "sorted by " + head.textContent.trim() + ", " + order;
  }

  // a word is looked for in the whole row, a pattern with * or ? must fit a whole cell or a word of it
  function test(typed) {
    const wanted = typed.trim().toLowerCase();
    if (!/[*?]/.test(wanted)) { return (row) => row.textContent.toLowerCase().includes(wanted); }
    const source = wanted.replace(/[.+^${}()|[\]\\]/g, "\\$&").replace(/\*/g, ".*").replace(/\?/g, ".");
    const pattern = new RegExp("^" + source + "$", "u");
    return (row) => Array.from(row.cells).some((cell) => {
      const text = cell.textContent.toLowerCase();
      return pattern.test(text) || text.split(/\s+/).some((word) => pattern.test(word));
    });
  }

  function narrow(table, typed, status) {
    const fits = test(typed);
    let shown = 0;
    Array.from(table.tBodies).forEach((body) => bodyRows(body).forEach((row) => {
      row.hidden = Boolean(typed) && !fits(row);
      shown += row.hidden || body.hidden ? 0 : 1;
    }));
    status.textContent = typed ? shown + (shown === 1 ? " row" : " rows") : "";
  }

  function asText(table) {
    const line = (cells) => cells.map((cell) => textOf(cell).trim().replace(/\s+/g, " ")).join("\t");
    const several = table.tBodies.length > 1;
    const lines = [(several ? "list\t" : "") + line(cellsOf(table))];
    Array.from(table.tBodies).filter((body) => !body.hidden).forEach((body) => {
      const name = several ? body.rows[0].dataset.heading + "\t" : "";
      bodyRows(body).filter((row) => !row.hidden).forEach((row) => lines.push(name + line(Array.from(row.cells))));
    });
    return lines.join("\n") + "\n";
  }

  function copy(text) {
    if (navigator.clipboard && window.isSecureContext) { return navigator.clipboard.writeText(text); }
    const area = element("textarea", text, document.body);
    area.select();
    const done = document.execCommand("copy");
    area.remove();
    return done ? Promise.resolve() : Promise.reject(new Error("copying is not allowed"));
  }

  function equip(table, number) {
    const region = table.closest(".scroll"), tools = element("div");
    tools.className = "tools";
    region.parentNode.insertBefore(tools, region);
    const label = element("label", "only rows with ", tools), field = element("input", "", label);
    field.type = "search";
    field.id = "filter-" + number;
    const status = element("span");
    status.setAttribute("role", "status");
    if (table.tBodies.length > 1) {
      element("span", "lists", tools);
      Array.from(table.tBodies).forEach((body) => {
        const button = element("button", body.rows[0].dataset.heading, tools);
        button.type = "button";
        button.setAttribute("aria-pressed", "true");
        button.addEventListener("click", () => {
          body.hidden = !body.hidden;
          button.setAttribute("aria-pressed", String(!body.hidden));
        });
      });
    }
    const copier = element("button", "copy as TSV", tools);
    copier.type = "button";
    copier.addEventListener("click", () => copy(asText(table)).then(
      () => { status.textContent = "copied"; },
      (error) => { status.textContent = "not copied: " + error.message; }
    ));
    tools.appendChild(status);
    field.addEventListener("input", () => narrow(table, field.value, status));
    cellsOf(table).forEach((head) => {
      const button = element("button");
      button.type = "button";
      button.textContent = head.textContent;
      head.textContent = "";
      head.appendChild(button);
      head.setAttribute("aria-sort", "none");
      button.addEventListener("click", () => sort(table, head, status));
    });
  }

  document.querySelectorAll(".scroll > table").forEach(equip);
})();
