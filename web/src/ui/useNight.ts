import { useState } from "react";

/** The dark theme: the same tokens turned. Kept in this browser. */
export function useNight(): [boolean, (night: boolean) => void] {
  const [night, setNight] = useState(document.documentElement.dataset.theme === "night");
  return [
    night,
    (next) => {
      setNight(next);
      if (next) document.documentElement.dataset.theme = "night";
      else delete document.documentElement.dataset.theme;
      localStorage.setItem("stride-theme", next ? "night" : "day");
    },
  ];
}
