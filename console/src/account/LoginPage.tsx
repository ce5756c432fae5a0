import { useForm } from "react-hook-form";
import { useNavigate, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { useLogIn } from "../api/queries";
import { Button } from "../parts/Button";
import { Failure } from "../parts/Notice";

const box = "mt-1 w-full rounded border border-line bg-raised px-3 py-2";

/** Logs this browser in, and goes on to where it was asked from. */
export function LoginPage() {
  const logIn = useLogIn();
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const { register, handleSubmit } = useForm<Schemas["Credentials"]>();
  const submit = handleSubmit((credentials) => {
    const next = search.get("next") ?? "/account";
    const inside = next.startsWith("/") && !next.startsWith("//");
    logIn.mutate(credentials, { onSuccess: () => void navigate(inside ? next : "/account") });
  });
  return (
    <form onSubmit={(event) => void submit(event)} className="mx-auto mt-16 max-w-sm space-y-4 px-6">
      <h1 className="text-2xl">Log in</h1>
      <p className="text-muted">Reading and casting need no account. Publishing and tokens do.</p>
      {logIn.isError && <Failure error={logIn.error} />}
      <label className="block">
        Name
        <input {...register("name", { required: true })} autoComplete="username" autoFocus className={box} />
      </label>
      <label className="block">
        Password
        <input
          {...register("password", { required: true })}
          type="password"
          autoComplete="current-password"
          className={box}
        />
      </label>
      <Button look="ember" type="submit" className="w-full py-2" disabled={logIn.isPending}>
        Log in
      </Button>
    </form>
  );
}
