import { expect, test } from "vitest";
import type { Form } from "../src/api/views";
import { formIn, viewIn } from "../src/filing/language";

const form = {
  title: "Stall licence",
  about: "A stall\n on the pavement",
  parts: [{ id: "p", title: "The stall", one: "Stall", questions: [] }],
  lists: { goods: [{ id: "hot", title: "Hot food" }] },
  registers: { land: "Land register" },
  declarations: [],
  slots: [
    { slot: "sketch.2", title: "Sketch: Stall 2", plain_title: "Sketch", item_label: "Stall 2", says: "Draw it" },
  ],
  translations: {
    pt: {
      "A stall on the pavement": "Uma banca",
      Sketch: "Esboço",
      "Hot food": "Comida quente",
      "Land register": "Registo predial",
    },
  },
} as unknown as Form;

test("a text that is translated is shown in the language, another stands as it is", () => {
  const told = formIn(form, "pt");
  expect(told.about).toBe("Uma banca");
  expect(told.title).toBe("Stall licence");
  expect(told.registers.land).toBe("Registo predial");
  expect(told.lists.goods?.[0]?.title).toBe("Comida quente");
  expect(told.slots[0]?.title).toBe("Esboço: Stall 2");
  expect(formIn(form, "fr")).toBe(form);
});

test("titles of documents in the checklist follow", () => {
  const requirement = { kind: "document", title: "Sketch: Stall 2", plain_title: "Sketch", item_label: "Stall 2" };
  const view = { form, assessment: { requirements: [requirement] } } as never;
  const shown = viewIn(view, "pt") as { assessment: { requirements: { title: string }[] } };
  expect(shown.assessment.requirements[0]?.title).toBe("Esboço: Stall 2");
});
