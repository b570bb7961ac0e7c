// Calls by mail, in three languages: of contacts, of somebody new at a customer, of nobody known, and one that a machine sent.
import { createTransport } from 'nodemailer';
import PDFDocument from 'pdfkit';
import { and, asc, eq, isNotNull } from 'drizzle-orm';
import { HOUR, instant, type Instant } from '#core/time/index.ts';
import { keepRead, parseMail, takeMail } from '#server/mailbox/index.ts';
import type { Database } from '#server/platform/database.ts';
import { asset, assetClass, contact, customer } from '#server/tables.ts';

/** The demo answers under this name; what came in before it was started belongs to nothing that left it. */
const PUBLIC_ADDRESS = 'http://stavok.example';
const ADDRESS = 'service@stavok.example';

type Writer = { readonly name: string; readonly email: string; readonly tag: string };

/** Somebody at a customer who can be written to, and a machine of a class there. */
async function writerAt({ db }: Database, name: string, className: string): Promise<Writer> {
  const [owner] = await db.select({ id: customer.id }).from(customer).where(eq(customer.name, name));
  if (!owner) throw new Error(`The demo’s mail is written by ${name}, who is no customer.`);
  const [somebody] = await db
    .select({ name: contact.name, email: contact.email })
    .from(contact)
    .where(and(eq(contact.customerId, owner.id), isNotNull(contact.email)))
    .orderBy(asc(contact.id))
    .limit(1);
  const [machine] = await db
    .select({ tag: asset.tag })
    .from(asset)
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .where(and(eq(asset.customerId, owner.id), eq(assetClass.name, className)))
    .orderBy(asc(asset.id))
    .limit(1);
  return { name: somebody?.name ?? '', email: somebody?.email ?? '', tag: machine?.tag ?? '' };
}

function temperatureLog(tag: string): Promise<Buffer> {
  return new Promise((done) => {
    const page = new PDFDocument({ size: 'A5', margin: 40 });
    const parts: Buffer[] = [];
    page.on('data', (part: Buffer) => parts.push(part));
    page.on('end', () => done(Buffer.concat(parts)));
    page.fontSize(14).text(`Temperature log of ${tag}`).moveDown();
    for (let hour = 0; hour < 9; hour += 1)
      page.fontSize(10).text(`${String(hour).padStart(2, '0')}:00   ${-80 + hour * 2} °C`);
    page.end();
  });
}

type Message = Parameters<ReturnType<typeof createTransport>['sendMail']>[0] & { readonly hoursAgo: number };

async function messages(database: Database): Promise<Message[]> {
  const [serra, costabela, pontal] = await Promise.all([
    writerAt(database, 'Serra Veterinary Institute', 'Ultra-low freezer'),
    writerAt(database, 'Costabela Blood Centre', 'Centrifuge'),
    writerAt(database, 'Pontal Marine Station', 'Incubator'),
  ]);
  const from = ({ name, email }: Writer) => ({ name, address: email });
  const domain = pontal.email.replace(/^.*@/, '');
  const { tag } = serra;
  return [
    {
      ...{
        hoursAgo: 19,
        from: from(costabela),
        subject: 'Ausência do escritório',
        text: 'Estou ausente até segunda-feira.',
      },
      headers: { 'auto-submitted': 'auto-replied' },
    },
    {
      ...{ hoursAgo: 17, from: { name: 'Ilda Ramos', address: 'i.ramos@quintal-labs.example' } },
      subject: 'Do you also look after wash disinfectors?',
      text: 'Good afternoon,\n\nwe run two wash disinfectors and our present service ends in January. Could somebody call me?\n\nRegards\n-- \nIlda Ramos\nTel. +351 900 214 377',
    },
    {
      ...{ hoursAgo: 3, from: { name: 'Costas, Uxía', address: `uxia.costas@${domain}` } },
      subject: `La puerta de ${pontal.tag} no cierra`,
      text: `Buenos días:\n\nla puerta del equipo ${pontal.tag} no cierra bien desde ayer y la temperatura sube despacio. ¿Pueden venir esta semana?\n\nUn saludo\n-- \nUxía Costas\nTeléfono: 600 418 220`,
    },
    {
      ...{ hoursAgo: 2, from: from(costabela), subject: `Erro de desequilíbrio em ${costabela.tag}` },
      text: `Bom dia,\n\no equipamento ${costabela.tag} para com erro de desequilíbrio em cada ciclo. Já mudámos a carga e não ajuda.\n\nObrigado\n${costabela.name}`,
    },
    {
      ...{ hoursAgo: 1, from: from(serra), subject: `Freezer ${tag} is getting warm` },
      text: `Hello,\n\n${tag} was at -80 °C last night and is at -62 °C now. The log is attached. We move the samples, please tell us when you can be here.\n\n${serra.name}\n\nOn Mon 16 Nov 2026, Stavok wrote:\n> Your preventive visit is planned for next week.`,
      attachments: [{ filename: 'temperature-log.pdf', content: await temperatureLog(tag) }],
    },
  ];
}

export async function writeMail(database: Database, now: Instant): Promise<void> {
  const transport = createTransport({ streamTransport: true, buffer: true });
  for (const { hoursAgo, ...message } of await messages(database)) {
    const at = instant(now - hoursAgo * HOUR);
    const sent = await transport.sendMail({ to: ADDRESS, date: new Date(at), ...message });
    const raw = sent.message as Buffer;
    const id = await takeMail(database, raw, { returnPath: sent.envelope.from || '', now: at });
    const read = await parseMail(raw);
    await database.transact((tx) => keepRead(tx, id, read, PUBLIC_ADDRESS));
  }
}
