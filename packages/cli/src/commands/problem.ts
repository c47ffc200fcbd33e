import type { FastifyReply } from 'fastify';
import { STATUS_CODES } from 'node:http';

/** Answers with problem details (RFC 9457). */
export const problem = (reply: FastifyReply, status: number, detail: string): FastifyReply =>
  reply
    .code(status)
    .type('application/problem+json')
    .send(JSON.stringify({ title: STATUS_CODES[status], status, detail }));
