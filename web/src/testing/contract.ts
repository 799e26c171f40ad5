import { readFileSync } from "node:fs";
import Ajv2020 from "ajv/dist/2020";
import addFormats from "ajv-formats";

type Operation = {
  requestBody?: { content: Record<string, unknown> };
  responses: Record<string, { content?: Record<string, unknown> }>;
};
type Description = { paths: Record<string, Record<string, Operation>> };

const JSON_TYPE = "application/json";
const description = JSON.parse(readFileSync("../var/api.json", "utf8")) as Description;
const ajv = new Ajv2020({ strict: false });
addFormats(ajv);
ajv.addSchema(description, "api");

const templates = Object.keys(description.paths).map((path) => ({
  path,
  pattern: new RegExp(`^${path.replace(/\{\w+\}/g, "[^/]+").replaceAll(".", "\\.")}$`),
}));

function escaped(part: string): string {
  return encodeURIComponent(part.replaceAll("~", "~0").replaceAll("/", "~1"));
}

/** Holds a value against a schema of the API's description. */
export function check(value: unknown, what: string, ...pointer: string[]): void {
  const valid = ajv.getSchema(`api#/${pointer.map(escaped).join("/")}`)!;
  if (!valid(value)) {
    throw new Error(`${what}: ${ajv.errorsText(valid.errors)} in ${JSON.stringify(value)?.slice(0, 300)}`);
  }
}

/** The operation of a request, as the description has it, and where its schemas stand. */
function operation(method: string, path: string) {
  const plain = description.paths[path] ? path : templates.find(({ pattern }) => pattern.test(path))?.path;
  const verb = method.toLowerCase();
  const found = plain ? description.paths[plain]![verb] : undefined;
  if (!found) throw new Error(`the API has no ${method} ${path}`);
  return { found, pointer: ["paths", plain!, verb] };
}

/** Holds what is asked against the description. */
export function checkQuestion(method: string, path: string, body: unknown): void {
  const { found, pointer } = operation(method, path);
  if (!found.requestBody?.content[JSON_TYPE]) return;
  check(body, `the body of ${method} ${path}`, ...pointer, "requestBody", "content", JSON_TYPE, "schema");
}

/** Holds an answer against the description. */
export function checkAnswer(method: string, path: string, answer: unknown): void {
  const { found, pointer } = operation(method, path);
  const status = Object.keys(found.responses).find(
    (code) => code.startsWith("2") && found.responses[code]!.content?.[JSON_TYPE],
  );
  if (!status) return;
  check(
    answer,
    `the answer to ${method} ${path}`,
    ...pointer,
    "responses",
    status,
    "content",
    JSON_TYPE,
    "schema",
  );
}
