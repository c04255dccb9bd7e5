// The server tells times in the reader's zone too, where it is another than the client's.
const zone = encodeURIComponent(Intl.DateTimeFormat().resolvedOptions().timeZone || "");
document.cookie = `vokari_zone=${zone}; path=/; samesite=lax; max-age=31536000`;
