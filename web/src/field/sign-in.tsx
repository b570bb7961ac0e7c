// Signing in on the phone. It belongs to one person until they sign out; what waits on it is theirs to send.
import { useState } from 'react';
import type { Problem } from '#api/shapes.ts';
import { plural } from '../parts/words.ts';
import { useHeld, usePhone } from './held.ts';

export function SignInPage() {
  const phone = usePhone();
  const { owner, queue, demo, net } = useHeld();
  const [email, setEmail] = useState(owner?.email ?? '');
  const [password, setPassword] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const technicians = (demo ?? []).filter((p) => p.role === 'technician');
  const enter = async (how: Parameters<typeof phone.signIn>[0]): Promise<void> => setProblem(await phone.signIn(how));
  return (
    <div className="field">
      <main>
        <p className="font-serif text-3xl font-semibold">Stavok Field</p>
        {owner && (
          <p className="field-bar mt-3">
            Signed out by the server. {owner.name} signs in again
            {queue.length > 0 &&
              `: ${plural(queue.length, 'act')} on this phone ${queue.length === 1 ? 'is' : 'are'} kept`}
            .
          </p>
        )}
        {net === 'gone' && <p className="field-bar mt-3">No signal: signing in needs the network.</p>}
        <form
          className="mt-4"
          onSubmit={(e) => {
            e.preventDefault();
            void enter({ email, password });
          }}
        >
          <h1>Sign in</h1>
          <label className="over">
            E-mail
            <input
              className="big-field"
              type="email"
              autoComplete="username"
              value={email}
              onChange={(e) => setEmail(e.target.value)}
            />
          </label>
          <label className="over">
            Password
            <input
              className="big-field"
              type="password"
              autoComplete="current-password"
              value={password}
              onChange={(e) => setPassword(e.target.value)}
            />
          </label>
          {problem && (
            <p role="alert" className="mt-3 text-missed">
              ✕ {problem.detail}
            </p>
          )}
          <button className="wide mt-4">Sign in</button>
        </form>
        {technicians.length > 0 && (
          <section aria-label="Demo people">
            <h2>Demo: enter as</h2>
            {technicians.map((p) => (
              <button key={p.email} className="row" onClick={() => void enter({ demo: p.email })}>
                {p.name}
              </button>
            ))}
          </section>
        )}
      </main>
    </div>
  );
}
