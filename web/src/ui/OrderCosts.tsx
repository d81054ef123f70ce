import type { OrderPage } from "../api/types";
import { count, number } from "./format";

/** What an order comes to so far: what it cost, and what the customer is charged. */
export function OrderCosts({ page }: { page: OrderPage }) {
  const { costs } = page;
  if (costs.rows.length === 0) return null;
  return (
    <section aria-label="Costs and charges">
      <h2 className="apart">Costs and charges{costs.currency && `, in ${costs.currency}`}</h2>
      <table className="rows">
        <thead>
          <tr>
            <th>What</th>
            <th className="num">Used</th>
            <th className="num">Charged</th>
            <th className="num">Rate</th>
            <th className="num">Cost</th>
            <th className="num">Charge</th>
          </tr>
        </thead>
        <tbody>
          {costs.rows.map((row, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows may be alike, and none moves
            <tr key={i}>
              <td>
                {row.what}
                {row.said && <div className="soft">{row.said}</div>}
              </td>
              <td className="num">{row.quantity > 0 && amount(row.quantity, row.unit)}</td>
              <td className="num">{amount(row.charged, row.unit)}</td>
              <td className="num">{row.rate === null ? "no price" : money(row.rate)}</td>
              <td className="num">{row.rate !== null && row.quantity > 0 && money(row.amount)}</td>
              <td className="num">{row.rate !== null && money(row.charged_amount)}</td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr>
            <th colSpan={4}>
              Together
              {costs.n_unpriced > 0 && (
                <span className="soft">, without {count(costs.n_unpriced, "part")} that has no price</span>
              )}
            </th>
            <th className="num">{money(costs.amount)}</th>
            <th className="num">{money(costs.charged_amount)}</th>
          </tr>
        </tfoot>
      </table>
    </section>
  );
}

const amount = (quantity: number, unit: string) =>
  unit === "each" ? number(quantity) : `${number(quantity)} ${unit}`;
const money = (value: number) => value.toFixed(2);
