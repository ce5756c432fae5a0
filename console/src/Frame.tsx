import { User } from "lucide-react";
import { Link, NavLink, Outlet } from "react-router";
import { useAccount } from "./api/queries";
import { ThemeSwitch } from "./theme/ThemeSwitch";

/** What stands around every page. */
export function Frame() {
  const account = useAccount();
  return (
    <>
      <a href="#page" className="sr-only focus:not-sr-only">
        Skip to the page
      </a>
      <header className="sticky top-0 z-20 flex h-14 items-center gap-8 border-b-2 border-ember bg-panel px-6">
        <Link to="/catalogue" className="flex items-center gap-2.5 text-lg font-semibold [font-stretch:118%]">
          <img src="/mark.svg" alt="" className="size-7" />
          Iron Cast
        </Link>
        <nav className="flex flex-1 gap-6" aria-label="Places">
          <NavLink to="/catalogue" className="text-muted aria-[current=page]:text-text">
            Catalogue
          </NavLink>
        </nav>
        <ThemeSwitch />
        <Link
          to={account.data ? "/account" : "/login"}
          className="flex items-center gap-2 text-sm hover:text-ember"
        >
          <User size={17} />
          {account.data ? account.data.name : "Log in"}
        </Link>
      </header>
      <main id="page">
        <Outlet />
      </main>
    </>
  );
}
