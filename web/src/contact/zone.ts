/** The visitor's own zone, as their browser says: times are shown in it, unless they have chosen one. */
const list = document.querySelector<HTMLSelectElement>("select[data-find]");
const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
if (list && own !== list.value && [...list.options].some((one) => one.value === own)) {
  const there = new URL(location.href);
  there.searchParams.set("zone", own);
  location.replace(there);
}
