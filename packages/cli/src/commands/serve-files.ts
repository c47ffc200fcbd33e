import send from '@fastify/send';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { STATUS_CODES } from 'node:http';

/**
 * Serves the files of a folder, with range and conditional requests (RFC 9110, sections 13 and 14). A path that ends with a slash is
 * answered with the `index.html` there; the path of a folder without a slash is redirected to the one with it.
 *
 * @param server the server to which the route is added; other routes take precedence
 * @param root absolute path of the folder
 */
export function serveFiles(server: FastifyInstance, root: string): void {
  const handler = async (request: FastifyRequest, reply: FastifyReply) => {
    const names = (request.params as { '*': string })['*'].split('/').map(encodeURIComponent);
    const found = await send(request.raw, `/${names.join('/')}`, { root, dotfiles: 'allow', cacheControl: false });
    if (found.type === 'error') {
      const { statusCode } = found;
      if (statusCode === 404) return reply.callNotFound();
      // A range beyond the end of a file is answered with its length (RFC 9110, section 15.5.17).
      const contentRange = found.headers['Content-Range'];
      if (contentRange !== undefined) reply.header('Content-Range', contentRange);
      return reply.code(statusCode).send({ message: STATUS_CODES[statusCode] });
    }
    if (found.type === 'directory') {
      // Relative addresses in a page depend on the slash. The target is relative, so that it cannot lead to another host.
      const query = /\?.*$/.exec(request.url)?.[0] ?? '';
      return reply.redirect(`./${names.at(-1)}/${query}`, 301);
    }
    return reply.code(found.statusCode).headers(found.headers).send(found.stream);
  };
  server.route({ method: ['GET', 'HEAD'], url: '/*', handler });
}
