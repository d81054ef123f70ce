/**
 * Let Pocket open and run without a network: keep its own pages on the device. Only over HTTPS or on this machine.
 * It has the whole site as its scope, for the worker that runs the rules lies beside the pages, not below them.
 */
export function installPocket() {
  if (!("serviceWorker" in navigator)) return;
  void navigator.serviceWorker.register("/sw.js").catch(() => {
    // The browser does not allow it here. Everything works as long as there is a network.
  });
}
