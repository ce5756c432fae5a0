// Shows only the entries that hold what is typed.
document.querySelector("#search").addEventListener("input", (event) => {
  const words = event.target.value.toLowerCase();
  for (const entry of document.querySelectorAll("main li")) {
    entry.hidden = !entry.textContent.toLowerCase().includes(words);
  }
});
