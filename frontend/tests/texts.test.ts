// Every sentence on the screen is made by `say` and stands in the catalogues; `npm run texts` brings them up to date.
import { execFileSync } from "node:child_process";
import { globSync, readFileSync } from "node:fs";
import ts from "typescript";
import { expect, test } from "vitest";
import english from "../src/texts/en.json";
import portuguese from "../src/texts/pt.json";

const LETTERS = /\p{L}{2,}/u;
/** Attributes that a person reads. */
const READ = /^(aria-label|aria-description|aria-valuetext|title|label|placeholder|description|alt|legend)$/;
/** What begins with a capital and stands where a person may read it: a word, or a sentence. */
const SENTENCE = /^“?\p{Lu}\p{Ll}[^{}<>]* [^{}<>]*$|[a-z] [^{}<>]*[.?!…]$/u;
/** Calls whose texts are for programs. */
const PROGRAM =
  /^(say|useQueue|import|require|api\.\w+|new .*|.*\.(setItem|getItem|querySelector|get|set|has|includes|startsWith))$/;

function sentences(file: string): string[] {
  const text = readFileSync(file, "utf-8");
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
  const found: string[] = [];
  const note = (node: ts.Node, said: string) => {
    const { line } = source.getLineAndCharacterOfPosition(node.getStart(source));
    found.push(`${file}:${line + 1}: ${said.trim()}`);
  };
  const program = (node: ts.Node): boolean => {
    const { parent } = node;
    if (!parent || ts.isStatement(parent)) return !!parent && (ts.isImportDeclaration(parent) || ts.isTypeNode(parent));
    if (ts.isTypeNode(parent) || ts.isImportDeclaration(parent)) return true;
    if (ts.isJsxAttribute(parent)) return !READ.test(parent.name.getText(source));
    if (ts.isBinaryExpression(parent) && /^[!=]==?$/.test(parent.operatorToken.getText(source))) return true;
    if (ts.isCallExpression(parent) && PROGRAM.test(parent.expression.getText(source))) return true;
    if (ts.isNewExpression(parent)) return true;
    return program(parent);
  };
  const walk = (node: ts.Node): void => {
    if (ts.isJsxText(node) && LETTERS.test(node.text)) note(node, node.text);
    if (ts.isJsxAttribute(node) && node.initializer && ts.isStringLiteral(node.initializer)) {
      if (READ.test(node.name.getText(source)) && LETTERS.test(node.initializer.text))
        note(node, node.initializer.text);
    } else if (ts.isStringLiteralLike(node) && SENTENCE.test(node.text) && !program(node)) note(node, node.text);
    else if (ts.isTemplateExpression(node)) {
      const words = node.head.text + node.templateSpans.map((span) => ` ${span.literal.text}`).join("");
      if (!words.startsWith("/") && /\p{L}{2,} /u.test(words) && SENTENCE.test(`${words}.`) && !program(node))
        note(node, words);
    }
    ts.forEachChild(node, walk);
  };
  walk(source);
  return found;
}

test("no sentence is made elsewhere", () => {
  const files = globSync("src/**/*.{ts,tsx}").filter((file) => !/schema\.d\.ts$|theme\.ts$/.test(file));
  expect(files.length).toBeGreaterThan(50);
  expect(files.flatMap(sentences)).toEqual([]);
});

test("the catalogues hold every message and no other", () => {
  const before = [readFileSync("src/texts/en.json", "utf-8"), readFileSync("src/texts/pt.json", "utf-8")];
  execFileSync("npx", ["i18next", "--fail-on-update", "--silent"], { stdio: "pipe" });
  expect([readFileSync("src/texts/en.json", "utf-8"), readFileSync("src/texts/pt.json", "utf-8")]).toEqual(before);
  expect(Object.keys(english).length).toBeGreaterThan(500);
}, 120_000); // another program runs; a busy machine takes its time

test("each English text names the values of its message", () => {
  const values = (text: string) => [...text.matchAll(/{{(\w+)}}/g)].map((found) => found[1]).sort();
  for (const [message, text] of Object.entries(english)) expect(values(text), message).toEqual(values(message));
  expect(Object.values(english).filter((text) => !text)).toEqual([]);
  for (const [message, text] of Object.entries(portuguese)) {
    for (const value of values(text)) expect(values(message), message).toContain(value);
  }
});
