// Writing an offer: begun from machines, a message, past work or another offer, or blank.
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { changeOffer, type OfferIn, type OfferPage, type OfferProposal } from '#api/offers.ts';
import { CALLED_KINDS } from '#api/calls.ts';
import { addDays, localDateAt, type Instant } from '#core/time/index.ts';
import { ChooseAsset, ChosenMachines } from '../assets/index.ts';
import { ChooseCustomer, customersApi } from '../customers/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { newRequestKey } from '../parts/fields.tsx';
import { WireDate, WireLongText, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { ChoosePlace } from '../places/index.ts';
import { setupApi } from '../setup/index.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { offersApi } from './endpoints.ts';
import { Lines } from './lines.tsx';

type Machine = OfferProposal['machines'][number];
type About = { readonly customer: Choice | null; readonly machines: readonly Machine[]; readonly place: Choice | null };
type Typed = Pick<OfferIn, 'title' | 'text' | 'validUntil' | 'lines'> & {
  kind: (typeof CALLED_KINDS)[number];
  contactId: number | null;
};

const bodyOf = (about: About, { contactId, ...typed }: Typed) => ({
  ...typed,
  contactId,
  customerId: about.customer?.id ?? 0,
  assetIds: about.machines.map((m) => m.id),
  locationId: about.machines.length > 0 ? null : (about.place?.id ?? null),
  // Lines of machines that were taken away are of the whole.
  lines: typed.lines.map((l) =>
    l.assetId === null || about.machines.some((m) => m.id === l.assetId) ? l : { ...l, assetId: null },
  ),
});

/** For whom and which machines it is. */
function AboutFields({ about, set }: { about: About; set: (about: About) => void }) {
  const { customer, machines, place } = about;
  return (
    <div className="space-y-2">
      <ChooseCustomer chosen={customer} onChoose={(chosen) => set({ customer: chosen, machines: [], place: null })} />
      {customer && (
        <div className="grid grid-cols-2 gap-3">
          <ChooseAsset
            label={machines.length === 0 ? 'For the machine' : 'And another machine'}
            chosen={null}
            within={{ customer: String(customer.id) }}
            except={machines.map((m) => m.id)}
            onChoose={(found) =>
              found &&
              set({
                ...about,
                machines: [
                  ...machines,
                  { id: found.id, tag: found.mark ?? '', model: found.name, place: found.beside ?? '' },
                ],
              })
            }
          />
          {machines.length === 0 && (
            <ChoosePlace
              label="Or for a place"
              chosen={place}
              onChoose={(found) => set({ ...about, place: found })}
              customer={String(customer.id)}
            />
          )}
        </div>
      )}
      <ChosenMachines
        label="Machines of the offer"
        machines={machines.map((m) => ({ id: m.id, mark: m.tag, name: m.model, beside: m.place }))}
        onTakeAway={(id) => set({ ...about, machines: machines.filter((m) => m.id !== id) })}
      />
    </div>
  );
}

function Fields({ customer }: { customer: Choice | null }) {
  const { data } = customersApi.useReadCustomerQuery(
    { params: { id: String(customer?.id ?? '') } },
    { skip: customer === null },
  );
  const contacts = (customer && data?.contacts) || [];
  return (
    <>
      <div className="grid grid-cols-[2fr_1fr_1fr_1.2fr] gap-3">
        <WireText name="title" label="What is offered, in short" />
        <WireSelect name="kind" label="Becomes a" options={CALLED_KINDS.map((k) => [k, k] as const)} />
        <WireDate name="validUntil" label="Valid until" />
        <WireSelect
          name="contactId"
          label="For the attention of"
          options={[
            [null, 'nobody named'] as const,
            ...contacts.map((c) => [c.id, c.email ? c.name : `${c.name} (no e-mail)`] as const),
          ]}
        />
      </div>
      <WireLongText name="text" label="Words above the lines; they go with the order too" />
    </>
  );
}

/** Lines by a job plan, on each machine; those that stand already are replaced only while nobody wrote any. */
function ByPlan({ onChosen }: { onChosen: (id: string) => void }) {
  const { data } = setupApi.useReadReferenceQuery();
  return (
    <label className="block">
      <span className="quiet block pb-0.5">Begin with the lines of a job plan</span>
      <select className="box-select" value="" onChange={(e) => onChosen(e.target.value)}>
        <option value="">choose…</option>
        {(data?.jobPlans ?? []).map((p) => (
          <option key={p.id} value={p.id}>
            {p.name}
          </option>
        ))}
      </select>
    </label>
  );
}

function OfferForm({
  begun,
  held,
  now,
  onDone,
  onCancel,
}: {
  begun: OfferProposal;
  /** The draft that is changed; null: a new one. */
  held: OfferPage | null;
  now: Instant;
  onDone: (id: number) => void;
  onCancel: () => void;
}) {
  const reader = useReader();
  const [requestKey] = useState(newRequestKey);
  // As it was opened: what somebody else saves meanwhile is not written over unseen.
  const [opened] = useState(held?.version ?? 1);
  const [about, setAbout] = useState<About>({ customer: begun.customer, machines: begun.machines, place: begun.place });
  const [add] = offersApi.useAddOfferMutation();
  const [change] = offersApi.useChangeOfferMutation();
  const [propose] = offersApi.useLazyProposeOfferQuery();
  const today = localDateAt(reader.zone, now);
  const begin: Typed = {
    ...{ title: begun.title, text: begun.text, lines: begun.lines, contactId: begun.contactId },
    ...{ kind: held?.kind ?? 'repair', validUntil: held?.validUntil ?? addDays(today, 30) },
  };
  const form = useWireForm(changeOffer, begin, (typed: Typed) => ({
    version: opened,
    ...bodyOf(about, typed),
  }));
  const like = useLike(about.machines, begun);
  const byPlan = async (jobPlan: string): Promise<void> => {
    const assets = about.machines.map((m) => m.id).join(',');
    const { data } = await propose({ query: { jobPlan, ...(assets && { assets }) } });
    if (!data) return;
    form.setValue('lines', [...form.getValues('lines').filter((l) => l.kind !== 'travel'), ...data.lines]);
    if (form.getValues('title') === '') form.setValue('title', data.title);
  };
  return (
    <WireForm<Typed, unknown>
      form={form}
      name="An offer"
      save={held ? 'Save the draft' : 'Write the draft'}
      send={(typed, seen) => {
        const body = bodyOf(about, typed);
        return held
          ? change({ params: { id: String(held.id) }, body: { version: seen ?? opened, ...body } })
          : add({ body: { requestKey, ...body, orderId: begun.orderId, mailId: begun.mailId } });
      }}
      onDone={(answer) => onDone(held?.id ?? (answer as { id: number }).id)}
      onCancel={onCancel}
      disabled={about.customer === null}
    >
      <AboutFields about={about} set={setAbout} />
      <Fields customer={about.customer} />
      <div className="w-80">
        <ByPlan onChosen={(id) => void byPlan(id)} />
      </div>
      <Lines machines={about.machines} like={like} currency={begun.currency} />
    </WireForm>
  );
}

/** What like work took on the machines as they are chosen now. */
function useLike(machines: readonly Machine[], begun: OfferProposal): OfferProposal['like'] {
  const assets = machines.map((m) => m.id).join(',');
  const same = begun.like.length > 0 && assets === begun.machines.map((m) => m.id).join(',');
  const { data } = offersApi.useProposeOfferQuery({ query: { assets } }, { skip: same || assets === '' });
  return same ? begun.like : (data?.like ?? []);
}

const ASKED = ['assets', 'jobPlan', 'customer', 'order', 'mail', 'offer'] as const;

export function NewOffer() {
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const asked = Object.fromEntries(ASKED.flatMap((key) => (params.get(key) ? [[key, params.get(key) as string]] : [])));
  const query = offersApi.useProposeOfferQuery({ query: asked });
  const { data: session } = server.useReadSessionQuery();
  if (!session) return null;
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <h1 className="pb-3">An offer</h1>
      <Waiting query={query}>
        {(begun) => (
          <OfferForm
            begun={begun}
            held={null}
            now={session.now}
            onDone={(id) => void navigate(`/offers/${id}`, { replace: true })}
            onCancel={() => void navigate(-1)}
          />
        )}
      </Waiting>
    </div>
  );
}

export function ChangeOffer({ offer, now, onDone }: { offer: OfferPage; now: Instant; onDone: () => void }) {
  const begun: OfferProposal = {
    ...{ customer: offer.customer, machines: offer.machines, place: offer.place, contactId: offer.contact?.id ?? null },
    ...{ title: offer.title, text: offer.text, currency: offer.currency, orderId: null, mailId: null, like: [] },
    lines: offer.lines.map(({ list: _list, off: _off, pay: _pay, ...line }) => line),
  };
  return <OfferForm begun={begun} held={offer} now={now} onDone={onDone} onCancel={onDone} />;
}
