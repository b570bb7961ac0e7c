// The task of reports that runs on a thread.
import type { Answered } from '../platform/threads.ts';
import { reportDocument, type Report } from './report-document.ts';

export const draw = async (report: Report): Promise<Answered<Uint8Array>> => ({ value: await reportDocument(report) });
