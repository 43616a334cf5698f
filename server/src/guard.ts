import type { MiddlewareHandler } from "hono";

const LOCAL = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/i;

/** What the page may load and do: its own files and nothing else; styles may stand in the page, as its components put them there. */
const CONTENT_POLICY = [
  "default-src 'none'",
  // Decoders of compressed meshes are WebAssembly: may be compiled, nothing else is evaluated.
  "script-src 'self' 'wasm-unsafe-eval'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' data: blob:",
  "font-src 'self'",
  "connect-src 'self'",
  "worker-src 'self'",
  "base-uri 'none'",
  "form-action 'none'",
  "frame-ancestors 'none'",
].join("; ");

/**
 * Only the page that this server serves may talk to it. Foreign Host headers are refused (DNS rebinding); an Origin must be the very one that the
 * request goes to, so that pages on other ports and sites are refused; and where the browser says that a request to the interface comes
 * from another site or port (Sec-Fetch-Site), so is that, with or without an Origin. Scripts on this machine, which send neither, may.
 */
export const localOnly: MiddlewareHandler = async (c, next) => {
  const host = c.req.header("host") ?? "";
  const origin = c.req.header("origin");
  const site = c.req.header("sec-fetch-site");
  if (!LOCAL.test(host)) return c.json({ error: `this server answers on this machine only, not as "${host.slice(0, 80)}"` }, 403);
  if (origin !== undefined && origin.toLowerCase() !== `http://${host.toLowerCase()}`) return c.json({ error: "requests from other pages are refused" }, 403);
  const interfaceAsked = c.req.path.startsWith("/api") || (c.req.method !== "GET" && c.req.method !== "HEAD");
  if (interfaceAsked && site !== undefined && site !== "same-origin" && site !== "none") return c.json({ error: "requests from other pages are refused" }, 403);
  await next();
  c.header("X-Content-Type-Options", "nosniff");
  c.header("Referrer-Policy", "no-referrer");
  c.header("Content-Security-Policy", CONTENT_POLICY);
  c.header("X-Frame-Options", "DENY");
  c.header("Cross-Origin-Resource-Policy", "same-origin");
  c.header("Cross-Origin-Opener-Policy", "same-origin");
  // With the line above: the page and its worker may share memory, so that work which is no longer wanted can be stopped.
  c.header("Cross-Origin-Embedder-Policy", "require-corp");
};
