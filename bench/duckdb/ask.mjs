// Runs the statements that come in, one JSON text a line, and answers each with its rows and how long it took.
// usage: node ask.mjs FILE THREADS
import { createInterface } from "node:readline";
import { DuckDBInstance } from "@duckdb/node-api";

const [file, threads] = process.argv.slice(2);
const instance = await DuckDBInstance.create(file, { threads });
const connection = await instance.connect();
for await (const line of createInterface({ input: process.stdin })) {
  const started = performance.now();
  try {
    const reader = await connection.runAndReadAll(JSON.parse(line));
    const seconds = (performance.now() - started) / 1000;
    console.log(JSON.stringify({ seconds, rows: reader.getRowsJson() }));
  } catch (error) {
    console.log(JSON.stringify({ error: String(error) }));
  }
}
