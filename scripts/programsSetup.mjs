// Before any test: the programs as their sources are now.
export { readyPrograms as setup } from "./programs.mjs";
