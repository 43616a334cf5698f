// Worker threads do not inherit the TypeScript loader of the main thread: register it, then load the worker.
import { register } from "tsx/esm/api";

register();
const { default: work } = await import("./worker.ts");

export default work;
