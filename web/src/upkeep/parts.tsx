// The parts of the room: the run, the load, the year, a whole place.
import { NavLink } from 'react-router';

const PARTS = [
  ['/upkeep', 'Run'],
  ['/upkeep/load', 'Load'],
  ['/upkeep/year', 'Year'],
  ['/upkeep/place', 'Place'],
] as const;

export function UpkeepParts() {
  return (
    <nav aria-label="Parts of upkeep" className="flex gap-5 border-b border-hairline">
      {PARTS.map(([path, name]) => (
        <NavLink
          key={path}
          to={path}
          end
          className={({ isActive }) =>
            `-mb-px border-b-2 py-1.5 ${isActive ? 'border-base-content font-semibold' : 'border-transparent hover:border-hairline'}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
