import { useForm } from "react-hook-form";
import { Link, useNavigate } from "react-router";
import { useAccount, useCreateToken, useDeleteToken, useLogOut, useTokens } from "../api/queries";
import { Button } from "../parts/Button";
import { CopyButton } from "../parts/CopyButton";
import { Empty, Failure, Loading } from "../parts/Notice";
import { Table } from "../parts/Table";

/** Who is logged in, and the tokens that act for them. */
export function AccountPage() {
  const account = useAccount();
  const logOut = useLogOut();
  const navigate = useNavigate();
  if (account.isPending) return <Loading />;
  if (account.isError) return <Failure error={account.error} />;
  if (!account.data) {
    return (
      <div className="mx-auto max-w-3xl px-6 py-10">
        <Empty title="Nobody is logged in.">
          <Link to="/login" className="text-ember underline">
            Log in
          </Link>
        </Empty>
      </div>
    );
  }
  return (
    <div className="mx-auto max-w-3xl px-6 py-8">
      <header className="flex items-center justify-between">
        <div>
          <h1 className="text-2xl">{account.data.name}</h1>
          <p className="text-muted">{account.data.operator ? "Operator of this service" : "Account"}</p>
        </div>
        <Button onClick={() => logOut.mutate(undefined, { onSuccess: () => void navigate("/catalogue") })}>
          Log out
        </Button>
      </header>
      <Tokens />
    </div>
  );
}

function Tokens() {
  const tokens = useTokens();
  const create = useCreateToken();
  const remove = useDeleteToken();
  const { register, handleSubmit, reset } = useForm<{ label: string }>();
  const submit = handleSubmit(({ label }) => create.mutate(label, { onSuccess: () => reset() }));
  return (
    <section className="mt-8">
      <h2 className="text-lg">Tokens</h2>
      <p className="text-muted">A token lets a program, such as the command line, act for you.</p>
      <form onSubmit={(event) => void submit(event)} className="mt-4 flex gap-2">
        <input
          {...register("label", { required: true, maxLength: 100 })}
          aria-label="What the token is for"
          placeholder="What it is for, such as: release pipeline"
          className="min-w-0 flex-1 rounded border border-line bg-raised px-3 py-1.5 placeholder:text-muted"
        />
        <Button type="submit" disabled={create.isPending}>
          Make a token
        </Button>
      </form>
      {create.isError && <Failure error={create.error} />}
      {create.data && (
        <div className="mt-4 rounded border border-ember bg-panel p-4">
          <p>This token is shown once. Keep it now.</p>
          <div className="mt-2 flex items-center gap-3">
            <code className="min-w-0 flex-1 font-mono text-sm break-all">{create.data.secret}</code>
            <CopyButton label="Copy" text={create.data.secret ?? ""} />
          </div>
        </div>
      )}
      {tokens.isError && <Failure error={tokens.error} />}
      <Table heads={["For", "Made", "Last used", ""]}>
        {tokens.data?.map((token) => (
          <tr key={token.id}>
            <td>{token.label}</td>
            <td>{day(token.created)}</td>
            <td>{token.last_used ? day(token.last_used) : "never"}</td>
            <td className="text-right">
              <Button onClick={() => remove.mutate(token.id)} disabled={remove.isPending}>
                Take back
              </Button>
            </td>
          </tr>
        ))}
      </Table>
    </section>
  );
}

function day(time: string) {
  return new Date(time).toLocaleDateString("en-GB", { dateStyle: "medium" });
}
