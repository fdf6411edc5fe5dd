/** Hands a text over to the browser as a file. */
export function saveFile(name: string, text: string, type: string): void {
  const url = URL.createObjectURL(new Blob([text], { type }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  // The browser takes the file at once; the address may go when it has.
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}

/** Opens the browser's print dialog on a page that stands by itself, from which it also makes a PDF. */
export function printPage(html: string): void {
  const frame = document.createElement('iframe');
  frame.setAttribute('aria-hidden', 'true');
  frame.className = 'fixed size-0 border-0';
  frame.srcdoc = html;
  frame.addEventListener('load', () => {
    const page = frame.contentWindow;
    if (!page) return;
    page.addEventListener('afterprint', () => frame.remove());
    page.focus();
    page.print();
  });
  document.body.append(frame);
}

/** A file name made of a title: letters, digits and dashes. */
export function fileNameOf(title: string, ending: string): string {
  const base = title
    .normalize('NFKD')
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase();
  return `${base || 'farlo'}.${ending}`;
}
