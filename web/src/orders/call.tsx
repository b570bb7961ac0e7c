// Taking a call: what it is about on the left, what is known of it on the right, while the caller still speaks.
import { useEffect, useRef, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { raiseOrder, type CallAsk, type CallKnown, CALLED_KINDS } from '#api/calls.ts';
import type { MailPage } from '#api/mailbox.ts';
import { orderNumber } from '#api/shapes.ts';
import type { Priority } from '#core/service-levels/index.ts';
import { CAUSES } from '#core/entitlement/index.ts';
import { formatInstant, instant, parseInstant, type Instant } from '#core/time/index.ts';
import { plainSubject } from '#core/mail/index.ts';
import { assetsApi, ChosenMachines } from '../assets/index.ts';
import { filesApi } from '../files/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { WireDate, WireMoment, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { mailboxApi } from '../mailbox/index.ts';
import { setupApi, usePriorityChoices } from '../setup/index.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { About, aboutOf, type AboutWhat } from './about.tsx';
import { Known } from './call-known.tsx';
import { ordersApi } from './endpoints.ts';
import { WordField } from './word-field.tsx';

/** A call of longer ago is told with the reason; the same limit as the server's. */
const LATE_MS = 30 * 86_400_000;

/** Calls are told by the minute. */
const floorToMinute = (at: Instant): Instant => instant(Math.floor(at / 60_000) * 60_000);
const isLate = (receivedAt: string, now: Instant): boolean => (parseInstant(receivedAt) ?? now) < now - LATE_MS;

type Typed = {
  requestKey: string;
  title: string;
  kind: (typeof CALLED_KINDS)[number];
  priority: Priority;
  cause: (typeof CAUSES)[number];
  jobPlanId: number | null;
  symptom: string | null;
  receivedAt: string;
  callerId: number | null;
  callerSaid: string;
  contactId: number | null;
  customerReference: string;
  wishedOn: string | null;
  overTermsReason: string;
  lateReason: string;
};

/** What is asked while somebody types: what cover and promise follow from. */
function askOf(about: AboutWhat, typed: Typed, now: Instant): CallAsk {
  const { kind, priority, cause, receivedAt, lateReason } = typed;
  return {
    assetIds: about.machines.map((m) => m.id),
    ...(about.machines.length === 0 && { locationId: about.place?.id ?? null, customerId: about.customer?.id ?? null }),
    ...{ kind, priority, cause, receivedAt },
    ...(isLate(receivedAt, now) && lateReason.trim() !== '' && { lateReason }),
  };
}

const bodyOf = (about: AboutWhat, typed: Typed, now: Instant) => ({
  ...askOf(about, typed, now),
  ...{ requestKey: typed.requestKey, title: typed.title },
  ...(typed.symptom !== null && { symptom: typed.symptom }),
  ...(typed.jobPlanId !== null && { jobPlanId: typed.jobPlanId }),
  ...(typed.callerId !== null && { callerId: typed.callerId }),
  ...(typed.callerSaid !== '' && { callerSaid: typed.callerSaid }),
  ...(typed.contactId !== null && { contactId: typed.contactId }),
  ...(typed.customerReference !== '' && { customerReference: typed.customerReference }),
  ...(typed.wishedOn !== null && { wishedOn: typed.wishedOn }),
  ...(typed.overTermsReason !== '' && { overTermsReason: typed.overTermsReason }),
});

/** Who called: one of the customer's contacts, or somebody else in words. */
function Caller({ known }: { known: CallKnown | undefined }) {
  const contacts = (known?.contacts ?? []).map(
    (c) => [c.id, [c.name, c.role, c.phone].filter((x) => x).join(', ')] as const,
  );
  return (
    <div className="grid grid-cols-2 gap-3">
      <WireSelect name="callerId" label="Who called" options={[[null, 'somebody else'] as const, ...contacts]} />
      <WireText name="callerSaid" label="Name and how to reach them" />
    </div>
  );
}

function More({
  known,
  files,
  setFiles,
}: {
  known: CallKnown | undefined;
  files: File[];
  setFiles: (f: File[]) => void;
}) {
  const contacts = (known?.contacts ?? []).map((c) => [c.id, c.name] as const);
  const reference = setupApi.useReadReferenceQuery();
  return (
    <details>
      <summary className="w-fit cursor-pointer">
        <span className="link-ink">Job plan, contact on site, their own number, wished day, photos</span>
        {files.length > 0 && (
          <span className="quiet"> · {files.length === 1 ? 'one photo' : `${files.length} photos`}</span>
        )}
      </summary>
      <div className="mt-2 grid grid-cols-2 gap-3">
        <WireSelect
          name="jobPlanId"
          label="By job plan"
          options={[[null, 'none'] as const, ...(reference.data?.jobPlans ?? []).map((p) => [p.id, p.name] as const)]}
        />
        <WireSelect name="contactId" label="Ask for, on site" options={[[null, 'not said'] as const, ...contacts]} />
        <WireText name="customerReference" label="The customer’s own number" />
        <WireDate name="wishedOn" label="Wished day" empty={null} />
        <label className="act self-end">
          {files.length === 0 ? 'Photos or papers…' : files.map((f) => f.name).join(', ')}
          <input
            type="file"
            multiple
            accept="image/jpeg,image/png,image/webp,application/pdf"
            className="sr-only"
            aria-label="Photos or papers"
            onChange={(e) => setFiles([...(e.target.files ?? [])])}
          />
        </label>
      </div>
    </details>
  );
}

type Raised = { readonly id: number; readonly failed: readonly string[] };

/** Photos go with the order once it is there; one that was refused is said, the order stands. */
function useAttaching(files: readonly File[]) {
  const navigate = useNavigate();
  const [attach] = filesApi.useAddFileMutation();
  const [raised, setRaised] = useState<Raised | null>(null);
  const done = async ({ id }: { id: number }): Promise<void> => {
    const failed: string[] = [];
    for (const file of files) {
      const query = { subject: 'order', subjectId: String(id), name: file.name } as const;
      const { error } = await attach({ query, body: file });
      if (error) failed.push(`${file.name}: ${(error as { detail?: string }).detail ?? 'not sent'}`);
    }
    if (failed.length > 0) setRaised({ id, failed });
    else void navigate(`/orders/${id}`);
  };
  return { raised, done };
}

function NotAttached({ raised: { id, failed } }: { raised: Raised }) {
  const navigate = useNavigate();
  return (
    <p role="alert" className="text-missed">
      ✕ {orderNumber(id)} is raised, but not everything was attached: {failed.join('; ')}.{' '}
      <button type="button" className="link-ink" onClick={() => void navigate(`/orders/${id}`)}>
        Open it
      </button>
    </p>
  );
}

/** What is known of what the call is about; of other machines nothing is shown, also while it is looked up. */
function useKnown(about: AboutWhat, ask: CallAsk) {
  const isAbout = about.machines.length > 0 || about.place !== null;
  const preview = ordersApi.usePreviewOrderQuery({ body: ask }, { skip: !isAbout || ask.receivedAt === '' });
  const refused = preview.error as { detail?: string } | undefined;
  const isOfThese = (known: CallKnown): boolean =>
    known.lines.map((l) => l.assetId ?? '').join() === about.machines.map((m) => m.id).join();
  const before = preview.data && isOfThese(preview.data) ? preview.data : undefined;
  return { isAbout, refused, known: isAbout && !refused ? (preview.currentData ?? before) : undefined };
}

function CallFields({ known }: { known: CallKnown | undefined }) {
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <WordField name="symptom" label="Symptom" words={known?.symptoms ?? []} />
        <WireSelect name="priority" label="Priority" options={usePriorityChoices()} />
        <WireSelect name="cause" label="Likely cause" options={CAUSES.map((c) => [c, c] as const)} />
        <WireSelect name="kind" label="Kind" options={CALLED_KINDS.map((k) => [k, k] as const)} />
      </div>
      <Caller known={known} />
      {known?.credit && known.credit.policy !== 'go on' && known.credit.mayRaise && (
        <WireText name="overTermsReason" label="Over their credit terms: why it is raised nevertheless" />
      )}
    </>
  );
}

const startOf = (requestKey: string, now: Instant): Typed => ({
  requestKey,
  ...{ title: '', kind: 'repair', priority: 1, cause: 'unknown', symptom: null, jobPlanId: null },
  receivedAt: formatInstant(floorToMinute(now)),
  ...{ callerId: null, callerSaid: '', contactId: null, customerReference: '', wishedOn: null },
  ...{ overTermsReason: '', lateReason: '' },
});

function CallForm({
  about,
  setAbout,
  now,
  message,
  onKnown,
}: {
  about: AboutWhat;
  setAbout: (about: AboutWhat) => void;
  now: Instant;
  /** The message it came by, if it came by mail. */
  message: MailPage | null;
  onKnown: (known: CallKnown | undefined, title: string) => void;
}) {
  const reader = useReader();
  const [requestKey] = useState(newRequestKey);
  const [raise] = ordersApi.useRaiseOrderMutation();
  const [raiseFrom] = mailboxApi.useRaiseFromMailMutation();
  const [files, setFiles] = useState<File[]>([]);
  const { raised, done } = useAttaching(files);
  const form = useWireForm(
    raiseOrder,
    { ...startOf(requestKey, now), ...(message && begunBy(message)) },
    (typed: Typed) => bodyOf(about, typed, now),
  );
  const typed = form.watch();
  const { isAbout, refused, known } = useKnown(about, askOf(about, typed, now));
  useEffect(() => onKnown(known, typed.title), [known, typed.title, onKnown]);
  // What was found takes the keys on to what is wrong with it.
  const box = useRef<HTMLDivElement>(null);
  const count = about.machines.length;
  useEffect(() => {
    if (isAbout) box.current?.querySelector<HTMLInputElement>('input')?.focus();
  }, [isAbout, count]);
  return (
    <WireForm
      form={form}
      name="A call"
      save="Raise the order"
      send={(sent) => {
        const body = bodyOf(about, sent, now);
        return message ? raiseFrom({ params: { id: String(message.id) }, body }) : raise({ body });
      }}
      onDone={(answer) => void done(answer)}
      disabled={!isAbout || known?.credit?.mayRaise === false || raised !== null}
    >
      {raised && <NotAttached raised={raised} />}
      <ChosenMachines
        label="Machines of the call"
        machines={about.machines}
        onTakeAway={(id) => setAbout({ ...about, machines: about.machines.filter((m) => m.id !== id) })}
      />
      {refused && <p className="text-missed">✕ {refused.detail}</p>}
      <div ref={box}>
        <WireText name="title" label="What is wrong, or wanted" />
      </div>
      <CallFields known={known} />
      <More known={known} files={files} setFiles={setFiles} />
      <div>
        <p className="quiet">The call was received</p>
        <WireMoment name="receivedAt" zone={reader.zone} />
      </div>
      {isLate(typed.receivedAt, now) && (
        <WireText name="lateReason" label="More than 30 days ago: why is it told only now?" />
      )}
    </WireForm>
  );
}

const NOTHING: AboutWhat = { machines: [], customer: null, place: null };

/** What a message says of the call it is. */
const begunBy = ({ subject, receivedAt, contact, fromName, fromAddress }: MailPage): Partial<Typed> => ({
  title: plainSubject(subject).slice(0, 120),
  receivedAt: formatInstant(floorToMinute(receivedAt)),
  callerId: contact?.id ?? null,
  callerSaid: contact
    ? ''
    : [fromName, fromAddress]
        .filter((x) => x)
        .join(', ')
        .slice(0, 200),
});

/** The message named in the address: its machine, where it names one alone, and its customer are what the call is about. */
function useMessage(set: (about: AboutWhat) => void): {
  readonly isComing: boolean;
  readonly message: MailPage | null;
} {
  const [params] = useSearchParams();
  const id = params.get('mail');
  const { data } = mailboxApi.useReadMailQuery({ params: { id: id ?? '' } }, { skip: id === null });
  useEffect(() => {
    const [machine, ...others] = data?.machines ?? [];
    if (machine && others.length === 0)
      set({
        ...NOTHING,
        machines: [{ id: machine.id, mark: machine.tag, name: machine.model, beside: machine.customer }],
      });
    else if (data?.customer) set({ ...NOTHING, customer: data.customer });
  }, [data, set]);
  return { isComing: id !== null && data === undefined, message: data ?? null };
}

/** The words of the message a call came by, beside what is made of them. */
const Message = ({ message }: { message: MailPage }) => (
  <figure className="mb-3">
    <blockquote className="max-h-40 overflow-y-auto border-l-2 border-base-content pl-3 whitespace-pre-wrap">
      {message.own || message.subject}
    </blockquote>
    <figcaption className="quiet mt-1">
      {message.contact?.name ?? (message.fromName || message.fromAddress)}; its words and files go with the order.
    </figcaption>
  </figure>
);

/** A machine named in the address is what the call is about. */
function useNamed(set: (about: AboutWhat) => void): void {
  const [params] = useSearchParams();
  const id = params.get('asset');
  const { data: asset } = assetsApi.useReadAssetQuery({ params: { id: id ?? '' } }, { skip: id === null });
  useEffect(() => {
    if (asset)
      set({
        ...NOTHING,
        machines: [
          { id: asset.id, mark: asset.tag, name: `${asset.className} ${asset.model}`, beside: asset.customer.name },
        ],
      });
  }, [asset, set]);
}

export function CallRoom() {
  const [about, setAbout] = useState<AboutWhat>(NOTHING);
  const [known, setKnown] = useState<{ known: CallKnown | undefined; title: string }>({ known: undefined, title: '' });
  const [report] = useState(() => (now: CallKnown | undefined, title: string) => setKnown({ known: now, title }));
  const { data: session } = server.useReadSessionQuery();
  useNamed(setAbout);
  const { isComing, message } = useMessage(setAbout);
  if (!session || isComing) return null;
  return (
    <div className="panes">
      <section
        aria-label="The call"
        className="w-[600px] shrink-0 overflow-y-auto border-r border-hairline px-7 pt-5 pb-10"
      >
        <h1>{message ? 'A call by mail' : 'A call'}</h1>
        <div className="mt-2 mb-3">
          <About about={about} onFound={(hit) => setAbout(aboutOf(about, hit))} onSet={setAbout} />
        </div>
        {message && <Message message={message} />}
        <CallForm about={about} setAbout={setAbout} now={session.now} message={message} onKnown={report} />
      </section>
      <section aria-label="What is known" className="min-w-0 flex-1 overflow-y-auto px-7 pt-5 pb-10">
        <Known {...known} about={about} now={session.now} />
      </section>
    </div>
  );
}
