import { Link } from "react-router";

/** An address that leads nowhere. */
export function NotHere() {
  return (
    <main className="mx-auto max-w-prose p-10">
      <h1 className="text-2xl">There is no such page</h1>
      <p className="mt-2 text-faded">The address may be old, or mistyped.</p>
      <Link to="/" className="link mt-4 inline-block">
        Go to the first page
      </Link>
    </main>
  );
}
