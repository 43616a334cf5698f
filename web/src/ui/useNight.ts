import { useSyncExternalStore } from "react";

const listeners = new Set<() => void>();
const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};
const isNight = () => document.documentElement.dataset.theme === "night";

/** The dark theme: the same tokens turned. Kept in this browser; all who ask hear of a change. */
export function useNight(): [boolean, (night: boolean) => void] {
  return [useSyncExternalStore(subscribe, isNight), turnTo];
}

function turnTo(night: boolean): void {
  if (night) document.documentElement.dataset.theme = "night";
  else delete document.documentElement.dataset.theme;
  localStorage.setItem("stride-theme", night ? "night" : "day");
  for (const listener of listeners) listener();
}
