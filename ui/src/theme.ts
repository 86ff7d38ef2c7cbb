import type { ThemeConfig } from 'ant-design-vue/es/config-provider/context'

/** The colours and faces, once: styles.css has them as variables of the same names. */
export const theme: ThemeConfig = {
  token: {
    colorPrimary: '#1c5a4e',
    colorLink: '#1c5a4e',
    colorInfo: '#1c5a4e',
    colorError: '#a8321f',
    colorWarning: '#8f5600',
    colorSuccess: '#2d7548',
    colorTextBase: '#231e18',
    colorTextPlaceholder: '#6a5f50',
    colorBgBase: '#fffdf8',
    colorBorder: '#968a74',
    borderRadius: 6,
    fontFamily: '"Atkinson Hyperlegible", system-ui, sans-serif',
    fontSize: 15,
  },
}
