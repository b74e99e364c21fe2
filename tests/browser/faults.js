(least) => {
  const found = [];
  const root = document.scrollingElement;
  const wide = window.innerWidth;
  const name = (el) => {
    const words = (
      el.getAttribute("aria-label") ||
      el.textContent ||
      el.getAttribute("name") ||
      ""
    ).trim();
    return `${el.tagName.toLowerCase()}.${String(
      el.className.baseVal ?? el.className,
    )
      .split(" ")
      .slice(0, 2)
      .join(".")} "${words.replace(/\s+/g, " ").slice(0, 40)}"`;
  };
  if (root.scrollWidth > wide + 1)
    found.push(`sideways: the page is ${root.scrollWidth} wide on ${wide}`);
  const drawn = (el) => {
    if (
      el.closest(".visually-hidden, [hidden]") ||
      !el.checkVisibility({ visibilityProperty: true, opacityProperty: true })
    )
      return false;
    const box = el.getBoundingClientRect();
    return box.width > 1 && box.height > 1;
  };
  const seen = (el) => el.closest("[aria-hidden=true]") === null && drawn(el);
  const scrolls = (el) => {
    for (
      let at = el.parentElement;
      at && at !== document.body;
      at = at.parentElement
    ) {
      const style = getComputedStyle(at);
      if (
        /auto|scroll/.test(style.overflowX) &&
        at.scrollWidth > at.clientWidth + 1
      )
        return true;
    }
    return false;
  };
  const shown = (el) => {
    let box = el.getBoundingClientRect();
    let [left, top, right, bottom] = [box.left, box.top, box.right, box.bottom];
    for (let at = el.parentElement; at; at = at.parentElement) {
      const style = getComputedStyle(at);
      if (/hidden|clip|auto|scroll/.test(style.overflowX + style.overflowY)) {
        const edge = at.getBoundingClientRect();
        left = Math.max(left, edge.left);
        right = Math.min(right, edge.right);
        top = Math.max(top, edge.top);
        bottom = Math.min(bottom, edge.bottom);
      }
    }
    return {
      left,
      top,
      right,
      bottom,
      width: right - left,
      height: bottom - top,
    };
  };
  const keys = [
    ...document.querySelectorAll(
      "a[href], button, input, select, textarea, [role=button], [role=tab], [role=combobox], [role=option]",
    ),
  ].filter(
    (el) =>
      !(el instanceof SVGElement) &&
      seen(el) &&
      !el.disabled &&
      el.type !== "file" &&
      !el.closest(".v-overlay--scroll-blocked"),
  );
  // On the plan a touch takes the nearest head, wherever it lands: the picture is the target.
  for (const plan of document.querySelectorAll(".plan svg")) {
    const box = plan.getBoundingClientRect();
    if (Math.min(box.width, box.height) < 180)
      found.push(
        `small: the plan is ${Math.round(box.width)} x ${Math.round(box.height)}`,
      );
  }
  const parts = [];
  for (const el of keys) {
    // A field's frame is what a finger meets, not the line of text in it; a tick box with its words.
    const target =
      el.closest(".v-field, .v-selection-control, .box, label") ?? el;
    const box = target.getBoundingClientRect();
    const inline =
      el.tagName === "A" && getComputedStyle(el).display === "inline";
    if (
      !inline &&
      (box.height < least - 0.5 || box.width < Math.min(least, 44) - 0.5)
    )
      found.push(
        `small: ${name(el)} is ${Math.round(box.width)} x ${Math.round(box.height)}`,
      );
    if ((box.right > wide + 1 || box.left < -1) && !scrolls(target))
      found.push(`outside: ${name(el)}`);
    const piece = shown(target);
    if (piece.width > 1 && piece.height > 1)
      parts.push({ el: target, box: piece });
  }
  for (let a = 0; a < parts.length; a += 1)
    for (let b = a + 1; b < parts.length; b += 1) {
      const [one, two] = [parts[a], parts[b]];
      if (
        one.el === two.el ||
        one.el.contains(two.el) ||
        two.el.contains(one.el)
      )
        continue;
      const w =
        Math.min(one.box.right, two.box.right) -
        Math.max(one.box.left, two.box.left);
      const h =
        Math.min(one.box.bottom, two.box.bottom) -
        Math.max(one.box.top, two.box.top);
      const sticky = (el) => {
        for (let at = el; at; at = at.parentElement)
          if (/fixed|sticky/.test(getComputedStyle(at).position)) return true;
        return false;
      };
      if (w > 3 && h > 3 && !sticky(one.el) && !sticky(two.el))
        found.push(`overlap: ${name(one.el)} and ${name(two.el)}`);
    }
  // What stands in a field is read as much as what stands beside it.
  for (const el of document.querySelectorAll(
    "input:not([type=checkbox], [type=file])",
  ))
    if (seen(el) && el.value !== "" && el.scrollWidth > el.clientWidth + 1)
      found.push(`clipped: what stands in ${name(el)}`);
  // Words that stand still may be cut by whatever holds them, not only by their own element.
  const cutBy = (el, words) => {
    const range = document.createRange();
    range.selectNodeContents(words);
    const text = range.getBoundingClientRect();
    if (text.width < 2) return null;
    for (let at = el; at && at !== document.body; at = at.parentElement) {
      const style = getComputedStyle(at);
      if (/auto|scroll/.test(style.overflowX)) return null;
      const holds =
        at.matches("button, a[href]") || /hidden|clip/.test(style.overflowX);
      const box = at.getBoundingClientRect();
      if (
        holds &&
        style.display !== "inline" &&
        (text.left < box.left - 1 || text.right > box.right + 1)
      )
        return at;
    }
    return null;
  };
  for (const el of document.querySelectorAll("body *")) {
    if (
      !seen(el) ||
      el.closest("svg, math, .v-field__input, .v-input__details")
    )
      continue;
    const own = [...el.childNodes].filter(
      (node) => node.nodeType === 3 && node.textContent.trim() !== "",
    );
    if (own.length === 0) continue;
    const cutting = own.map((words) => cutBy(el, words)).find(Boolean);
    if (cutting)
      found.push(`clipped: ${name(el)} by what holds it, ${name(cutting)}`);
    const style = getComputedStyle(el);
    if (
      /hidden|clip/.test(style.overflowX) &&
      el.scrollWidth > el.clientWidth + 1
    )
      found.push(`clipped: ${name(el)}`);
    if (
      /hidden|clip/.test(style.overflowY) &&
      el.scrollHeight > el.clientHeight + 3
    )
      found.push(`cut off: ${name(el)}`);
    const box = el.getBoundingClientRect();
    if (box.right > wide + 2 && !scrolls(el))
      found.push(`outside: ${name(el)}`);
  }
  // What is written into a drawing stays within it, and no two words lie on one another.
  for (const drawing of document.querySelectorAll("svg[viewBox]")) {
    // What is said elsewhere to those who do not see is drawn for the others all the same.
    if (!drawn(drawing)) continue;
    const frame = drawing.getBoundingClientRect();
    const words = [...drawing.querySelectorAll("text")].filter(
      (el) => drawn(el) && el.textContent.trim() !== "",
    );
    const boxes = words.map((el) => el.getBoundingClientRect());
    const open = getComputedStyle(drawing).overflow === "visible";
    boxes.forEach((box, a) => {
      if (!open && (box.left < frame.left - 1 || box.right > frame.right + 1))
        found.push(`cut off: ${name(words[a])} in a drawing`);
      for (let b = a + 1; b < boxes.length; b += 1) {
        const other = boxes[b];
        const w =
          Math.min(box.right, other.right) - Math.max(box.left, other.left);
        const h =
          Math.min(box.bottom, other.bottom) - Math.max(box.top, other.top);
        if (w > 2 && h > Math.min(box.height, other.height) * 0.4)
          found.push(
            `overlap: ${name(words[a])} and ${name(words[b])} in a drawing`,
          );
      }
    });
  }
  return [...new Set(found)];
};
