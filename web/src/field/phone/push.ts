// Being told of new and changed appointments while the phone lies in a pocket: by the browser, where it has that (Push API).
export const canPush = (): boolean =>
  'serviceWorker' in navigator && 'PushManager' in globalThis && 'Notification' in globalThis;

const registered = (): Promise<ServiceWorkerRegistration | undefined> =>
  navigator.serviceWorker.getRegistration('/field/');

/** The address by which this phone is told; null: it is not. */
export async function pushAddress(): Promise<string | null> {
  if (!canPush()) return null;
  const told = await (await registered())?.pushManager.getSubscription();
  return told?.endpoint ?? null;
}

const text = (key: ArrayBuffer | null): string =>
  btoa(String.fromCharCode(...new Uint8Array(key ?? new ArrayBuffer(0))))
    .replaceAll('+', '-')
    .replaceAll('/', '_')
    .replaceAll('=', '');

export type PushPhone = { readonly endpoint: string; readonly p256dh: string; readonly auth: string };

/** Asks the browser for an address; else why there is none. */
export async function followBy(key: string): Promise<PushPhone | { readonly why: string }> {
  if ((await Notification.requestPermission()) !== 'granted')
    return {
      why: 'This phone does not let Field tell you things. Allow notifications for it in the settings of the phone.',
    };
  try {
    const told = await (
      await registered()
    )?.pushManager.subscribe({ userVisibleOnly: true, applicationServerKey: key });
    if (!told) return { why: 'Field is not kept on this phone yet. Open it again, then try.' };
    return { endpoint: told.endpoint, p256dh: text(told.getKey('p256dh')), auth: text(told.getKey('auth')) };
  } catch {
    return { why: 'The phone gave no address to be told at. Try again when there is a signal.' };
  }
}

/** Gives the address back to the browser, and which it was. */
export async function leaveBy(): Promise<string | null> {
  if (!canPush()) return null;
  const told = await (await registered())?.pushManager.getSubscription();
  if (!told) return null;
  await told.unsubscribe();
  return told.endpoint;
}
