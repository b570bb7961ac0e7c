// What each exception of a run means in this house: it stops a visit, asks somebody, or only tells.
import { setUpkeepSetting } from '#api/upkeep.ts';
import { EXCEPTION_LEVELS, type ExceptionLevel } from '#core/upkeep/index.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { upkeepApi } from './endpoints.ts';

const MEANS: Readonly<Record<ExceptionLevel, string>> = {
  stops: 'stops: a manager may let it go on, with a reason',
  asks: 'asks: somebody decides',
  tells: 'tells: it is shown, and raised',
};

export function UpkeepSettings() {
  const reader = useReader();
  const query = upkeepApi.useReadUpkeepSettingsQuery();
  const [set] = upkeepApi.useSetUpkeepSettingMutation();
  const may = reader.may(setUpkeepSetting);
  return (
    <Waiting query={query}>
      {({ items }) => (
        <>
          <p className="mb-3">
            Where one of these holds for a visit, the run stops it, asks, or tells. Every night visits that nothing
            stops or asks about are raised by themselves.
          </p>
          <table className="dense">
            <thead>
              <tr>
                <th>Exception</th>
                <th className="w-96">What it means</th>
              </tr>
            </thead>
            <tbody>
              {items.map(({ exception, name, level }) => (
                <tr key={exception}>
                  <td>{name}</td>
                  <td>
                    {may ? (
                      <select
                        className="box-select"
                        aria-label={name}
                        value={level}
                        onChange={(e) => void set({ body: { exception, level: e.target.value as ExceptionLevel } })}
                      >
                        {EXCEPTION_LEVELS.map((l) => (
                          <option key={l} value={l}>
                            {MEANS[l]}
                          </option>
                        ))}
                      </select>
                    ) : (
                      MEANS[level]
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </Waiting>
  );
}
