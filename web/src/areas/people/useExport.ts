/** Takes people out of the account as a file that the browser keeps. */
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

const FORMATS = [
  ["csv", "as CSV"],
  ["xlsx", "as a workbook"],
  ["vcf", "as vCards"],
] as const;

export function useExport() {
  const account = useAccount();
  const { act } = usePending();
  async function takeOut(format: (typeof FORMATS)[number][0], who: Schemas["Chosen"]) {
    await act(async () => {
      const answer = await api.POST("/api/accounts/{account}/contacts/export/{format}", {
        params: { path: { account: account.value, format } },
        body: who,
        parseAs: "blob",
      });
      const blob = (await ok(Promise.resolve(answer as never))) as Blob;
      const link = document.createElement("a");
      link.href = URL.createObjectURL(blob);
      link.download = decodeURIComponent(answer.response.headers.get("Content-Disposition")?.split("''")[1] ?? `people.${format}`);
      link.click();
      URL.revokeObjectURL(link.href);
      tell(`${link.download} was made.`);
    });
  }
  return { FORMATS, takeOut };
}
