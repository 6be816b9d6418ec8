// A file of the reader's own.

/** Let the user choose a file; calls back with it. */
export function chooseFile(
  take: (file: File) => void,
  label = "File to import",
  accept = ".json,.cir,.net,.txt,application/json,text/plain",
): void {
  const input = document.createElement("input");
  input.type = "file";
  input.accept = accept;
  input.setAttribute("aria-label", label);
  input.hidden = true;
  input.addEventListener("change", () => {
    const [file] = input.files ?? [];
    if (file) take(file);
    input.remove();
  });
  document.body.append(input);
  input.click();
}
