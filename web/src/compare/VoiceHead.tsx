// A voice's own mark: pencil dashes, an ink line, copper dots with error bars.
const HEADS = { hand: "Hand", simulated: "Simulated", bench: "Bench" } as const;

/** The heads of the three columns. */
export const VoiceHeads = () => (
  <>
    {(["hand", "simulated", "bench"] as const).map((voice) => (
      <th key={voice} scope="col" className="px-2 text-right font-medium">
        <VoiceHead voice={voice} />
      </th>
    ))}
  </>
);

export function VoiceHead({ voice }: { voice: keyof typeof HEADS }) {
  return (
    <span className={`inline-flex items-center gap-1.5 voice-${voice}`}>
      <svg
        aria-hidden="true"
        width="22"
        height="10"
        viewBox="0 0 22 10"
        className="@max-[28rem]:hidden"
      >
        {voice === "hand" && (
          <path d="M1 5H21" stroke="currentColor" strokeWidth="2" strokeDasharray="4 3" />
        )}
        {voice === "simulated" && <path d="M1 5H21" stroke="currentColor" strokeWidth="2" />}
        {voice === "bench" && (
          <>
            <path
              d="M5 1V9M3.5 1h3M3.5 9h3M16 1V9M14.5 1h3M14.5 9h3"
              stroke="currentColor"
              strokeWidth="1.2"
            />
            <circle cx="5" cy="5" r="2.2" fill="currentColor" />
            <circle cx="16" cy="5" r="2.2" fill="currentColor" />
          </>
        )}
      </svg>
      {HEADS[voice]}
    </span>
  );
}
