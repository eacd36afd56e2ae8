// What scripts say, in the language of the page: spoken`Left on the bobbin: ${share} of 100` looks up
// "Left on the bobbin: {1} of 100" among what the page brought along; without it, it is said as it stands.
const SAID = JSON.parse(document.getElementById("scripts-said")?.textContent ?? "{}");

export const LANGUAGE = document.documentElement.lang;
const MARK = new Intl.NumberFormat(LANGUAGE || "en").format(1.5)[1];
const figure = (value) => String(value).replace(/^(\d+)\.(\d+)$/, `$1${MARK}$2`);

export const spoken = (parts, ...values) => {
  const message = parts.reduce((made, part, k) => `${made}{${k}}${part}`);
  return (SAID[message] ?? message).replace(/\{(\d+)\}/g, (_, k) => figure(values[k - 1]));
};
