/** What became of an appointment: confirmed, cancelled, they came, or did not. */
import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

const SAID = { confirmed: "is confirmed", cancelled: "is cancelled", missed: "did not come", attended: "came" } as const;

export function useSettle() {
  const account = useAccount();
  const touched = useTouched();
  const { pending, act } = usePending();

  async function settle(id: number, contact: string, state: Schemas["AppointmentStateIn"]["state"]): Promise<boolean> {
    const path = { account: account.value, appointment_id: id };
    const done = await act(() =>
      ok(api.POST("/api/accounts/{account}/appointments/{appointment_id}/state", { params: { path }, body: { state } })),
    );
    if (done) tell(`${contact}: ${SAID[state]}.`);
    void touched("everything");
    return done;
  }
  return { pending, settle };
}
