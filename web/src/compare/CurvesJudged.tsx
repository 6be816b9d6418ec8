// Curves judged like figures: each record beside the run that shows the same.
import { Fragment } from "react";
import type { CaseLedger } from "../api/types";
import { lookAtRun } from "../plots/runsOf";
import { Named } from "../ui/Named";
import { Verdict } from "../ui/Verdict";
import { WhySheet } from "../why/Why";
import { WhyButton } from "../why/WhyButton";

export function CurvesJudged({ ledgers }: { ledgers: CaseLedger[] }) {
  const several = ledgers.length > 1;
  const curves = ledgers.flatMap(({ name, curves }) => curves.map((curve) => ({ name, curve })));
  if (!curves.length) return null;
  return (
    <table aria-label="Curves" className="mt-5 w-full border-collapse text-[15px]">
      <thead>
        <tr className="border-b-2 border-ink/70 text-left text-[13px] text-soft">
          <th scope="col" className="py-1.5 font-medium">
            Curve
          </th>
          <th scope="col" className="px-2 font-medium">
            Beside one another
          </th>
          <th scope="col" className="px-2 text-right font-medium">
            Within
          </th>
          <th scope="col" className="pl-2 text-right font-medium">
            Verdict
          </th>
        </tr>
      </thead>
      <tbody>
        {curves.map(({ name, curve }) => {
          const key = `${name} ${curve.voices} ${curve.run} ${curve.record} ${curve.quantity} ${curve.part}`;
          return (
            <Fragment key={key}>
              <tr className="border-b border-ruling align-baseline">
                <th scope="row" className="py-2 text-left font-normal whitespace-nowrap">
                  <button
                    type="button"
                    title={`Look at the run ${curve.run_name}`}
                    onClick={() => lookAtRun(curve.run)}
                    className="font-serif italic underline-offset-2 hover:underline"
                  >
                    <Named text={curve.quantity} />
                  </button>
                  {curve.part && <span className="block text-[13px] text-soft">{curve.part}</span>}
                </th>
                <td className="px-2 text-[13px] text-soft">
                  <span className={curve.name ? "voice-bench" : "voice-simulated"}>
                    {curve.name || curve.run_name}
                  </span>
                  {curve.voices !== "bench − simulated" && (
                    <span className="voice-hand"> beside the formula by hand</span>
                  )}
                  {several && `, ${name}`}. {curve.sentence}
                  {curve.laid && ` The record is ${curve.laid}.`}
                </td>
                <td className="figure px-2 text-right text-[13px] whitespace-nowrap">
                  {Math.round((100 * curve.inside) / Math.max(curve.count, 1))} %
                </td>
                <td className="pl-2 text-right">
                  <Verdict verdict={curve.verdict} isSmall={several} />
                  {curve.verdict !== "agree" && curve.voices === "bench − simulated" && (
                    <span className="block">
                      <WhyButton at={key} question={{ run: curve.run }} of={curve.quantity} />
                    </span>
                  )}
                </td>
              </tr>
              <tr>
                <td colSpan={4}>
                  <WhySheet at={key} />
                </td>
              </tr>
            </Fragment>
          );
        })}
      </tbody>
    </table>
  );
}
