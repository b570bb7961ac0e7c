// Stage moon: a circle that fills by quarters as an order moves on, ringed when settled, crossed when called off.
import type { OrderStage } from '#core/orders/index.ts';

const QUARTERS: Record<OrderStage, number> = {
  raised: 0,
  planned: 1,
  sent: 2,
  'on site': 3,
  done: 4,
  settled: 4,
  'called off': 0,
};

function wedge(quarters: number): string {
  const angle = (quarters / 4) * 2 * Math.PI;
  const [x, y] = [8 + 5.5 * Math.sin(angle), 8 - 5.5 * Math.cos(angle)];
  return `M8 8V2.5A5.5 5.5 0 ${quarters > 2 ? 1 : 0} 1 ${x.toFixed(2)} ${y.toFixed(2)}Z`;
}

export function StageMoon({ stage, size = 16 }: { stage: OrderStage; size?: number }) {
  const quarters = QUARTERS[stage];
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 16 16"
      role="img"
      aria-label={`Stage: ${stage}`}
      className="inline-block shrink-0 align-[-2px]"
    >
      <title>{stage}</title>
      <circle
        cx="8"
        cy="8"
        r="5.5"
        fill={quarters === 4 ? 'currentColor' : 'none'}
        stroke="currentColor"
        strokeWidth="1.3"
        strokeDasharray={stage === 'called off' ? '2 2' : undefined}
      />
      {quarters > 0 && quarters < 4 && <path d={wedge(quarters)} fill="currentColor" />}
      {stage === 'settled' && <circle cx="8" cy="8" r="7.4" fill="none" stroke="currentColor" strokeWidth="0.9" />}
      {stage === 'called off' && <path d="M5.5 5.5l5 5m0-5l-5 5" stroke="currentColor" strokeWidth="1.3" />}
    </svg>
  );
}
