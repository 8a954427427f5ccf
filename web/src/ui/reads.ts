/** As much of a query as is looked at where its state is shown. One that is not enabled is waited for by nobody. */
export interface Read {
  error: { value: Error | null };
  isPending: { value: boolean };
  isLoadingError: { value: boolean };
  isFetching: { value: boolean };
  fetchStatus: { value: string };
  refetch: () => unknown;
}
