// The parts of a room, as a row of links above its pages.
import { NavLink } from 'react-router';

export function RoomParts({
  room,
  parts,
}: {
  room: string;
  parts: readonly (readonly [path: string, name: string])[];
}) {
  return (
    <nav aria-label={`Parts of ${room}`} className="flex flex-wrap gap-x-5 border-b border-hairline">
      {parts.map(([path, name]) => (
        <NavLink
          key={path}
          to={path}
          end
          className={({ isActive }) =>
            `-mb-px whitespace-nowrap border-b-2 py-1.5 ${isActive ? 'border-base-content font-semibold' : 'border-transparent hover:border-hairline'}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
