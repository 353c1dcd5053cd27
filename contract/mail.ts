import { z } from 'zod';

export const sendRequestSchema = z
  .object({
    document: z.string().max(64),
    contacts: z.array(z.number().int()).max(10_000),
    audience: z.string().max(64).nullable(),
  })
  .refine((request) => request.contacts.length > 0 || request.audience !== null, {
    message: 'Choose somebody to send to',
    path: ['contacts'],
  });

export type SendRequest = z.infer<typeof sendRequestSchema>;

/** What became of the message to one recipient; `unsure` where it may have been handed over or not. */
export const deliveryStatuses = ['waiting', 'handing over', 'accepted', 'refused', 'unsure'] as const;
export type DeliveryStatus = (typeof deliveryStatuses)[number];

/** How far a send is; it goes on in the background until it is finished. */
export const sendReportSchema = z.object({
  id: z.number(),
  isFinished: z.boolean(),
  /** The job that works it off; null once it is finished, or failed for good. */
  job: z.number().nullable(),
  /** How many it is for; 0 until that was found out. */
  recipients: z.number(),
  sent: z.number(),
  waiting: z.number(),
  refused: z.array(z.object({ email: z.string(), reason: z.string() })),
  unsure: z.array(z.string()),
});
export type SendReport = z.infer<typeof sendReportSchema>;

export const listedMessageSchema = z.object({
  id: z.number(),
  recipient: z.string(),
  subject: z.string(),
  receivedAt: z.string(),
});
export type ListedMessage = z.infer<typeof listedMessageSchema>;

export const messageSchema = listedMessageSchema.extend({
  from: z.string(),
  html: z.string(),
  text: z.string(),
  headers: z.array(z.object({ name: z.string(), value: z.string() })),
});
export type MessageRecord = z.infer<typeof messageSchema>;

/** Which messages of the mailbox are listed. */
export const mailboxQuerySchema = z.object({ search: z.string().max(200).default('') });
