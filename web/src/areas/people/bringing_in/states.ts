/** How the bringing in of a file stands, in words. */
export const STATES: Record<string, string> = {
  running: "coming in",
  done: "came in",
  stopped: "stopped",
  taking_back: "being taken back",
  taken_back: "taken back",
  read: "read",
};
