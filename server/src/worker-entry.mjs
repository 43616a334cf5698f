// Worker threads do not inherit the TypeScript loader of the main thread: register it, then load the worker.
import { register } from "tsx/esm/api";

register();
await import("./worker.ts");
