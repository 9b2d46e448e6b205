"use strict";
(function () {
  const tools = document.querySelector(".tools"), blocks = Array.from(document.querySelectorAll(".lines"));
  tools.hidden = false;

  function words(line, side) {
    const text = line.querySelector(side === "left" ? ".l" : ".t").textContent.toLowerCase();
    const found = text.match(/[\p{L}\p{N}]+/gu) || [];
    return side === "left" ? found.reverse() : found;
  }

  function before(one, two) {
    for (let at = 0; at < one.length && at < two.length; at++) {
      if (one[at] !== two[at]) { return one[at] < two[at] ? -1 : 1; }
    }
    return one.length - two.length;
  }

  function narrow() {
    const wanted = tools.querySelector("input").value.toLowerCase();
    let shown = 0;
    blocks.forEach((block) => Array.from(block.children).forEach((line) => {
      line.hidden = !line.querySelector("summary").textContent.toLowerCase().includes(wanted);
      shown += line.hidden ? 0 : 1;
    }));
    document.getElementById("shown").textContent = wanted ? shown + " lines" : "";
  }

  function sort(by) {
    tools.querySelectorAll("button").forEach((one) => one.setAttribute("aria-pressed", one.dataset.by === by));
    blocks.forEach((block) => {
      const lines = Array.from(block.children).map((line) => (
        { line, number: Number(line.dataset.line), words: by === "line" ? [] : words(line, by) }
      ));
      lines.sort((one, two) => before(one.words, two.words) || one.number - two.number);
      lines.forEach((one) => block.appendChild(one.line));
    });
  }

  tools.querySelector("input").addEventListener("input", narrow);
  tools.addEventListener("click", (event) => { if (event.target.dataset.by) { sort(event.target.dataset.by); } });
})();
