import { App } from 'antd';
import { api, ApiProblem } from '../api/client';

/** Offers to allow a host on the spot, to those who may, where it was refused; then what was refused goes on. */
export function useHostOffer() {
  const { modal, message } = App.useApp();
  return (e: unknown, goOn: () => Promise<void>): boolean => {
    if (!(e instanceof ApiProblem) || e.code !== 'host-not-allowed') return false;
    modal.confirm({
      title: 'The host is not allowed',
      content: e.message,
      okText: `Allow ${String(e.body.host)} and go on`,
      onOk: async () => {
        try {
          await api.post('/allowed-hosts', { host: e.body.host });
          void goOn();
        } catch (refused) {
          void message.error(refused instanceof Error ? refused.message : String(refused));
        }
      },
    });
    return true;
  };
}
