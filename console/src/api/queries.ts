import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, dataOf, ProblemError, type Reference, type Schemas, type Values } from "./client";

const versionPath = "/templates/{team}/{name}/versions/{version}";

/** Templates in which all words occur. */
export function useTemplates(words: string, label: string) {
  return useQuery({
    queryKey: ["templates", words, label],
    queryFn: () => dataOf(api.GET("/templates", { params: { query: { words, label, limit: 100 } } })),
    placeholderData: keepPreviousData,
  });
}

export function useVersions(team: string, name: string) {
  return useQuery({
    queryKey: ["versions", team, name],
    queryFn: () => dataOf(api.GET("/templates/{team}/{name}/versions", { params: { path: { team, name } } })),
  });
}

export function useVersion(path: Reference) {
  return useQuery({
    queryKey: ["version", path],
    queryFn: () => dataOf(api.GET(versionPath, { params: { path: { ...path } } })),
  });
}

export function useFiles(path: Reference) {
  return useQuery({
    queryKey: ["files", path],
    queryFn: () => dataOf(api.GET(`${versionPath}/files`, { params: { path: { ...path } } })),
  });
}

/** The source project's own text of a file; none while there is no file. */
export function useFile(path: Reference, file: string | undefined) {
  return useQuery({
    queryKey: ["file", path, file],
    queryFn: () =>
      dataOf(api.GET(`${versionPath}/file`, { params: { path: { ...path }, query: { path: file ?? "" } } })),
    enabled: file !== undefined,
    placeholderData: keepPreviousData,
  });
}

/** What a cast with these values would give. The last answer stays until the next. */
export function usePreview(
  path: Reference,
  values: Values,
  preset: string | undefined,
  file: string | undefined,
) {
  return useQuery({
    queryKey: ["preview", path, values, preset, file],
    queryFn: ({ signal }) =>
      dataOf(
        api.POST(`${versionPath}/preview`, {
          params: { path: { ...path } },
          body: { values, preset, file },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

interface CastWish {
  values: Values;
  preset: string | undefined;
  format: "tar.gz" | "zip";
}

/** Fetches a cast and hands it to the browser as a download. */
export function useCast(path: Reference) {
  return useMutation({
    mutationFn: async ({ values, preset, format }: CastWish) => {
      const { data, error, response } = await api.POST(`${versionPath}/cast`, {
        params: { path: { ...path }, query: { format } },
        body: { values, preset },
        parseAs: "blob",
      });
      if (!response.ok) throw new ProblemError(error as Schemas["ErrorModel"], response.status);
      const disposition = response.headers.get("Content-Disposition") ?? "";
      const link = document.createElement("a");
      link.href = URL.createObjectURL(data as Blob);
      link.download = /filename="?([^";]+)"?/.exec(disposition)?.[1] ?? `${path.name}.${format}`;
      link.click();
      URL.revokeObjectURL(link.href);
      return link.download;
    },
  });
}

/** Who is logged in; null when nobody is. */
export function useAccount() {
  return useQuery({
    queryKey: ["account"],
    queryFn: async () => {
      try {
        return await dataOf(api.GET("/account"));
      } catch (error) {
        if (error instanceof ProblemError && error.status === 401) return null;
        throw error;
      }
    },
    staleTime: 60_000,
  });
}

export function useLogIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["Credentials"]) => dataOf(api.POST("/sessions", { body })),
    onSuccess: (account) => client.setQueryData(["account"], account),
  });
}

export function useLogOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => dataOf(api.DELETE("/sessions/current")),
    onSuccess: () => client.setQueryData(["account"], null),
  });
}

export function useTokens() {
  return useQuery({ queryKey: ["tokens"], queryFn: () => dataOf(api.GET("/tokens")) });
}

export function useCreateToken() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (label: string) => dataOf(api.POST("/tokens", { body: { label } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["tokens"] }),
  });
}

export function useDeleteToken() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: number) => dataOf(api.DELETE("/tokens/{id}", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["tokens"] }),
  });
}
