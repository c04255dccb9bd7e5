// The page to print: its one button.
document.getElementById("print").addEventListener("click", () => window.print());
