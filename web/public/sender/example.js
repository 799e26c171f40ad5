/* global Estrel */
const form = document.getElementById("start");
const asked = new URLSearchParams(location.search);
form.collector.value = asked.get("collector") ?? `http://${location.hostname}:4271/events`;
form.key.value = asked.get("key") ?? "";
form.source.value = asked.get("source") ?? "web";

function tell(text) {
  document.getElementById("told").textContent = text;
}

function begin() {
  const estrel = Estrel.sender({
    collector: form.collector.value,
    key: form.key.value,
    source: form.source.value,
    respectDoNotTrack: form.respect.checked,
    wait: 200,
    onRefused: (reasons) => tell(`Refused: ${reasons.join("; ")}`),
  });
  estrel.did("page_viewed", { path: location.pathname });
  document.getElementById("buttons").hidden = false;
  document.getElementById("plan").onclick = () => estrel.did("trip_planned", { to: "Old Mint" });
  document.getElementById("sign-in").onclick = () => estrel.signedIn("customer:EXAMPLE");
  document.getElementById("sign-out").onclick = () => estrel.signedOut();
  tell(`Sending as visitor ${estrel.visitor}`);
}

form.addEventListener("submit", (event) => {
  event.preventDefault();
  begin();
});
if (asked.get("key")) begin();
