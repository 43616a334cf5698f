import { join } from "node:path";
import { openDatabase } from "../store/database.ts";

/** Puts a library into a data folder that a server takes as it is: it has had the demo, and nothing is in it. */
export function emptyLibrary(data: string): void {
  const db = openDatabase(join(data, "stride.db"));
  db.exec("INSERT INTO setting (key, value) VALUES ('demo-loaded', 'yes'), ('demo-bodies-loaded', 'yes')");
  db.close();
}
