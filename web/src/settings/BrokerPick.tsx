import { Select } from 'antd';
import { useEndpoints } from '../flows/useChoices';

/** Picks an endpoint that is a broker: by its address in one environment, or in any. */
export function BrokerPick({
  environment,
  value,
  onChange,
}: {
  environment?: string;
  value?: string;
  onChange: (endpoint: string) => void;
}) {
  const brokers = useEndpoints().flatMap((e) => {
    const address = Object.entries(e.environments)
      .filter(([name]) => !environment || name === environment)
      .map(([, way]) => way?.address ?? '')
      .find((its) => /^amqps?:/i.test(its));
    return address ? [{ value: e.name, label: `${e.name} · ${address}` }] : [];
  });
  return (
    <Select
      aria-label="Broker"
      className="field-3xl"
      popupMatchSelectWidth={false}
      value={value}
      onChange={onChange}
      options={brokers}
      notFoundContent={`No broker ${environment ? `in ${environment} ` : ''}yet: add one in Settings, Endpoints.`}
    />
  );
}
