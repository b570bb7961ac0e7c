// Signing in: e-mail and password; in the demo, one click on a person.
import { signIn, type Session } from '#api/session.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { server } from './store.ts';

export function SignIn({ session }: { session: Session }) {
  const [send] = server.useSignInMutation();
  const [signInDemo] = server.useSignInDemoMutation();
  const { errors, submit } = useSubmit([]);
  const form = useWireForm(signIn, { email: '', password: '' });
  return (
    <main className="mx-auto flex min-h-screen max-w-4xl items-center gap-16 px-8">
      <div className="flex-1">
        <p className="font-serif text-4xl font-semibold">Stavok</p>
        <p className="mt-3 max-w-sm">
          Was it covered then, is it due, how long have we got, did we keep it? One time line for every machine under
          contract.
        </p>
        <div className="mt-8 max-w-xs">
          <WireForm form={form} name="Sign in" save="Sign in" send={(body) => send({ body })} onDone={() => undefined}>
            <h1 className="text-xl">Sign in</h1>
            <WireText name="email" label="E-mail" type="email" autoComplete="username" />
            <WireText name="password" label="Password" type="password" autoComplete="current-password" />
          </WireForm>
        </div>
      </div>
      {session.demo && (
        <section className="flex-1" aria-label="Demo people">
          <h2>Demo: enter as</h2>
          <GeneralError errors={errors} />
          <ul className="mt-2 border-t border-hairline">
            {session.demo.map((p) => (
              <li key={p.email} className="border-b border-hairline">
                <button
                  className="flex w-full items-baseline justify-between px-1 py-1.5 text-left hover:bg-base-300"
                  onClick={() => void submit(signInDemo({ body: { email: p.email } }))}
                >
                  <span>{p.name}</span>
                  <span className="quiet">{p.role}</span>
                </button>
              </li>
            ))}
          </ul>
          <p className="quiet mt-2">Invented people and data. These buttons exist in the demo only.</p>
        </section>
      )}
    </main>
  );
}
