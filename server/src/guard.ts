import type { MiddlewareHandler } from "hono";

const LOCAL = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/i;

/** Only this machine's own pages may talk to the server: foreign Host and Origin headers are refused (DNS rebinding, other sites' forms). */
export const localOnly: MiddlewareHandler = async (c, next) => {
  const host = c.req.header("host") ?? "";
  const origin = c.req.header("origin");
  if (!LOCAL.test(host)) return c.json({ error: `this server answers on this machine only, not as "${host.slice(0, 80)}"` }, 403);
  if (origin !== undefined && !LOCAL.test(origin.replace(/^https?:\/\//i, ""))) return c.json({ error: "requests from other sites are refused" }, 403);
  await next();
  c.header("X-Content-Type-Options", "nosniff");
  c.header("Referrer-Policy", "no-referrer");
};
