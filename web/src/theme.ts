import type { ThemeConfig } from 'antd';

/** Warm neutral greys, a deep verdigris primary; copper is for wires only, red for failures only. */
export const colour = {
  ink: '#22272a',
  dim: '#656c70',
  faint: '#90979a',
  line: '#e2dfd9',
  ground: '#f6f4f0',
  panel: '#fffdfa',
  soft: '#efece5',
  primary: '#2f6f63',
  primarySoft: '#e3efec',
  wire: '#b0673a',
  wireSoft: '#f5e6db',
  failure: '#b3312c',
  failureSoft: '#f9e4e1',
  caution: '#8a6a12',
  cautionSoft: '#f7efd6',
};

export const theme: ThemeConfig = {
  token: {
    // who asked the system for less motion gets none here
    motion: !window.matchMedia('(prefers-reduced-motion: reduce)').matches,
    colorPrimary: colour.primary,
    colorInfo: colour.primary,
    colorLink: colour.primary,
    colorError: colour.failure,
    colorWarning: colour.caution,
    colorSuccess: colour.primary,
    colorText: colour.ink,
    colorTextSecondary: colour.dim,
    colorBorder: '#d8d4cc',
    colorBorderSecondary: colour.line,
    colorBgLayout: colour.ground,
    colorBgContainer: colour.panel,
    borderRadius: 6,
    fontSize: 13,
    controlHeight: 30,
    fontFamily: 'system-ui, "DejaVu Sans", "Segoe UI", sans-serif',
    fontFamilyCode: 'ui-monospace, "DejaVu Sans Mono", Menlo, Consolas, monospace',
  },
  components: {
    Table: {
      cellPaddingBlockSM: 5,
      cellPaddingInlineSM: 10,
      headerBg: '#fbf9f5',
      headerColor: colour.dim,
      rowHoverBg: '#faf6f0',
    },
    Segmented: { itemSelectedBg: colour.primarySoft, itemSelectedColor: colour.primary, trackBg: '#f3f0ea' },
    Button: { defaultShadow: 'none', primaryShadow: 'none' },
  },
};
