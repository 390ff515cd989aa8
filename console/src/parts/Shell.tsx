import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, Navigate, NavLink, Outlet, useLocation, useNavigate } from "react-router";

import { sessionQuery, signOut } from "../api/session";
import { Bell } from "./Bell";
import { Loading } from "./Loading";
import { NotHere } from "./NotHere";
import { ProblemNote } from "./Problem";
import { switchTheme } from "./theme";
import { useWorkspace } from "./useWorkspace";

/** The pages in the order of the work; what lies under `besides` belongs to a page as well. */
const PAGES: { to: string; name: string; besides?: string }[] = [
  { to: "today", name: "Today" },
  { to: "connections", name: "Connections" },
  { to: "bridges", name: "Bridges", besides: "base-rules" },
  { to: "documents", name: "Documents" },
  { to: "holds", name: "Holds" },
  { to: "runs", name: "Runs" },
  { to: "requests", name: "Requests" },
  { to: "payouts", name: "Payouts" },
  { to: "bank", name: "Bank" },
  { to: "clearing", name: "Clearing" },
  { to: "tie-out", name: "Tie-out" },
  { to: "settings", name: "Settings" },
];

/** The frame of every page: the margin with its line, as in an account book, and the page beside it. */
export function Shell() {
  const session = useQuery(sessionQuery);
  const workspace = useWorkspace();
  const location = useLocation();
  if (session.isPending) return <Loading what="the console" />;
  if (session.isError) return <ProblemNote error={session.error} again={() => void session.refetch()} />;
  if (!session.data.signed_in) {
    return <Navigate to={`/?next=${encodeURIComponent(location.pathname + location.search)}`} replace />;
  }
  if (!workspace.known) return <NotHere />;
  const isBesides = (page: { besides?: string }) =>
    page.besides !== undefined && location.pathname.startsWith(`/${workspace.slug}/${page.besides}`);
  return (
    <div className="min-h-screen md:grid md:grid-cols-[11rem_1fr]">
      <a href="#page" className="sr-only focus:not-sr-only focus:absolute focus:bg-page focus:p-2">
        To the page
      </a>
      <header className="print:hidden flex flex-wrap items-center gap-6 border-madder/40 p-5 max-md:border-b md:sticky md:top-0 md:h-screen md:flex-col md:flex-nowrap md:items-stretch md:border-r-3 md:border-double">
        <Link to={`/${workspace.slug}/today`} className="font-serif text-lg leading-tight font-semibold">
          Inkwell
          <br className="max-md:hidden" /> Bridge
        </Link>
        <nav aria-label="Pages">
          <ul className="flex flex-wrap gap-1 md:flex-col">
            {PAGES.map((page) => (
              <li key={page.to}>
                <NavLink
                  to={`/${workspace.slug}/${page.to}`}
                  className={({ isActive }) =>
                    `block border-l-2 px-2 py-1 ${isActive || isBesides(page) ? "border-madder font-medium" : "border-transparent text-faded hover:text-ink"}`
                  }
                >
                  {page.name}
                </NavLink>
              </li>
            ))}
          </ul>
        </nav>
        <Bell slug={workspace.slug} />
        <div className="ml-auto md:mt-auto md:ml-0">
          <PersonMenu name={session.data.name} slug={workspace.slug} workspace={workspace.name} />
        </div>
      </header>
      <main id="page" tabIndex={-1} className="min-w-0 p-5 outline-none md:px-8 md:py-6">
        <Outlet />
      </main>
    </div>
  );
}

function PersonMenu({ name, slug, workspace }: { name: string; slug: string; workspace: string }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const leaving = useMutation({
    mutationFn: signOut,
    onSuccess: () => {
      queries.clear();
      void navigate("/");
    },
  });
  const item = "block w-full cursor-pointer px-3 py-1.5 text-left data-focus:bg-wash";
  return (
    <Menu>
      <MenuButton className="w-full cursor-pointer text-left text-sm">
        <span className="block font-medium">{workspace}</span>
        <span className="block text-faded">{name}</span>
      </MenuButton>
      <MenuItems anchor="top start" className="z-10 w-48 border border-line bg-page py-1 shadow-md outline-none">
        <MenuItem>
          <Link className={item} to={`/${slug}/account`}>
            Your account
          </Link>
        </MenuItem>
        <MenuItem>
          <button type="button" className={item} onClick={switchTheme}>
            Light or dark
          </button>
        </MenuItem>
        <MenuItem>
          <a className={item} href="/api/v1/reference">
            API reference
          </a>
        </MenuItem>
        <MenuItem>
          <button type="button" className={item} onClick={() => leaving.mutate()}>
            Sign out
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
  );
}
