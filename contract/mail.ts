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

export const sendReportSchema = z.object({
  id: z.number(),
  sent: z.number(),
  refused: z.array(z.object({ email: z.string(), reason: z.string() })),
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
