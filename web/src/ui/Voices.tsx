/** What the product is about, each voice in its own hand. */
export function Voices() {
  return (
    <>
      Circuits <span className="voice-hand font-serif">by hand</span>,{" "}
      <span className="voice-simulated font-serif">simulated</span> and{" "}
      <span className="voice-bench font-serif">on the bench</span>
    </>
  );
}
