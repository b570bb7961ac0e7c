// Signing in: e-mail and password; in the demo, one click on a person.
import { useState, type FormEvent } from 'react';
import type { Session } from '#api/session.ts';
import { GeneralError, TextField, useSubmit } from '../parts/fields.tsx';
import { server } from './store.ts';

export function SignIn({ session }: { session: Session }) {
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [signIn, { isLoading }] = server.useSignInMutation();
  const [signInDemo] = server.useSignInDemoMutation();
  const { errors, submit } = useSubmit(['email', 'password']);
  const send = (event: FormEvent) => {
    event.preventDefault();
    void submit(signIn({ body: { email, password } }));
  };
  return (
    <main className="mx-auto flex min-h-screen max-w-4xl items-center gap-16 px-8">
      <div className="flex-1">
        <p className="font-serif text-4xl font-semibold">Stavok</p>
        <p className="mt-3 max-w-sm">
          Was it covered then, is it due, how long have we got, did we keep it? One time line for every machine under
          contract.
        </p>
        <form onSubmit={send} className="mt-8 max-w-xs space-y-3" noValidate>
          <h1 className="text-xl">Sign in</h1>
          <TextField
            label="E-mail"
            type="email"
            value={email}
            onChange={setEmail}
            error={errors.of('email')}
            autoComplete="username"
          />
          <TextField
            label="Password"
            type="password"
            value={password}
            onChange={setPassword}
            error={errors.of('password')}
            autoComplete="current-password"
          />
          <GeneralError errors={errors} />
          <button className="act-main" disabled={isLoading}>
            Sign in
          </button>
        </form>
      </div>
      {session.demo && (
        <section className="flex-1" aria-label="Demo people">
          <h2>Demo: enter as</h2>
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
