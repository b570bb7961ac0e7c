// The parts of a page, one at a time: walked with the arrow keys.
import type { ReactNode } from 'react';
import { Tab, TabList, TabPanel, Tabs as AllTabs } from 'react-aria-components';

export function Tabs<K extends string>({
  label,
  tabs,
  chosen,
  onChoose,
  children,
  className = 'mt-4',
}: {
  label: string;
  tabs: readonly (readonly [key: K, name: string])[];
  chosen: K;
  onChoose: (key: K) => void;
  /** What the chosen one shows. */
  children: ReactNode;
  className?: string;
}) {
  return (
    <AllTabs selectedKey={chosen} onSelectionChange={(key) => onChoose(key as K)}>
      <TabList aria-label={label} className={`flex gap-5 border-b border-hairline ${className}`}>
        {tabs.map(([key, name]) => (
          <Tab
            key={key}
            id={key}
            className={({ isSelected }) =>
              `-mb-px cursor-pointer border-b-2 py-1.5 ${isSelected ? 'border-base-content font-semibold' : 'border-transparent hover:border-hairline'}`
            }
          >
            {name}
          </Tab>
        ))}
      </TabList>
      {/* Made anew for each part, for the tab names its panel by the part. */}
      <TabPanel key={chosen} id={chosen}>
        {children}
      </TabPanel>
    </AllTabs>
  );
}
