/** Answers as long as the web process runs, and does nothing else. */
export function GET(): Response {
  return new Response(null, { status: 204 });
}
export { GET as POST };
