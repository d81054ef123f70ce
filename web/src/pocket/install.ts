/** Let Pocket open and run without a network: keep its own pages on the device. Only over HTTPS or on this machine. */
export function installPocket() {
  if (!("serviceWorker" in navigator)) return;
  void navigator.serviceWorker.register("/sw.js", { scope: "/pocket" }).catch(() => {
    // The browser does not allow it here. Everything works as long as there is a network.
  });
}
