// Before anything is drawn, so that the page does not flash in the other colours.
if (localStorage.getItem("stride-theme") === "night") document.documentElement.dataset.theme = "night";
