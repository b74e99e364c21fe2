/**
 * Keep the application itself on the tablet, so that it opens while the server does not answer.
 *
 * Browsers allow this only over a secure context. A newer version waits until the page is loaded
 * the next time: nothing changes under somebody's hands.
 */
export async function openWithoutServer(): Promise<void> {
  if (!("serviceWorker" in navigator) || !import.meta.env.PROD) return;
  try {
    await navigator.serviceWorker.register("/worker.js");
    const registered = await navigator.serviceWorker.getRegistration();
    registered?.waiting?.postMessage({ type: "SKIP_WAITING" });
  } catch {
    // Without it everything works but opening the page while the server is away.
  }
}
