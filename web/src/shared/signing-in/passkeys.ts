/** Passkeys (W3C WebAuthn): what the browser does with them, in the JSON that both sides speak. */
import { came, way } from "@/api/signingIn";

export const knowsPasskeys = () => "PublicKeyCredential" in window && "parseCreationOptionsFromJSON" in PublicKeyCredential;
/** A passkey belongs to a name, and an address of numbers is none. */
export const isAtAName = () => !/^[\d.:[\]]+$/.test(window.location.hostname);

const asJson = (credential: Credential | null) => {
  if (!(credential instanceof PublicKeyCredential)) throw new Error("No passkey was used.");
  return credential.toJSON();
};

interface Requested {
  request_options: { publicKey: PublicKeyCredentialRequestOptionsJSON };
}
interface Created {
  creation_options: { publicKey: PublicKeyCredentialCreationOptionsJSON };
}

async function used(options: Requested): Promise<never> {
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(options.request_options.publicKey);
  return asJson(await navigator.credentials.get({ publicKey })) as never;
}

/** In place of email and password. */
export async function signInByPasskey() {
  const { data } = await came<Requested>(way.GET("/_allauth/browser/v1/auth/webauthn/login"));
  return came(way.POST("/_allauth/browser/v1/auth/webauthn/login", { body: { credential: await used(data) } }));
}

/** As the second step. */
export async function stepByPasskey() {
  const { data } = await came<Requested>(way.GET("/_allauth/browser/v1/auth/webauthn/authenticate"));
  return came(way.POST("/_allauth/browser/v1/auth/webauthn/authenticate", { body: { credential: await used(data) } }));
}

export async function addPasskey(name: string) {
  const query = { passwordless: "" } as never; // a passkey that stands for the password, too
  const { data } = await came<Created>(way.GET("/_allauth/browser/v1/account/authenticators/webauthn", { params: { query } }));
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(data.creation_options.publicKey);
  const credential = asJson(await navigator.credentials.create({ publicKey })) as never;
  return came(way.POST("/_allauth/browser/v1/account/authenticators/webauthn", { body: { name, credential } }));
}
