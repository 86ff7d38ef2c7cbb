import antTheme from 'ant-design-vue/es/theme'
import type { ThemeConfig } from 'ant-design-vue/es/config-provider/context'
import type { Palette } from './palette'

/** How a colour is called in each of its shades, by the place of the shade in a list. */
const shades = {
  '': 0,
  Text: 0,
  Hover: 1,
  TextHover: 1,
  BorderHover: 1,
  Active: 2,
  TextActive: 2,
  Bg: 3,
  BgHover: 4,
  Border: 5,
}
const shadesOf = (name: string, ...colours: string[]) =>
  Object.fromEntries(Object.entries(shades).map(([shade, i]) => [`color${name}${shade}`, colours[i]]))

/** Ant Design Vue's tokens, each tint by hand: what its generator makes of dark colours is grey. */
export function themeOf(p: Palette, isDark: boolean): ThemeConfig {
  const act = [p.act, p.actHover, p.actDown, p.act2, p.act3]
  const token = {
    fontFamily: '"Atkinson Hyperlegible", system-ui, sans-serif',
    fontSize: 15,
    fontSizeSM: 13,
    fontSizeLG: 16,
    fontWeightStrong: 700,
    borderRadius: 6,
    controlHeight: 32,
    controlHeightSM: 26,
    lineWidthBold: 3,
    motion: false,
    wireframe: false,
    colorTextBase: p.ink,
    colorText: p.ink,
    colorTextSecondary: p.ink2,
    colorTextTertiary: p.mute,
    colorTextQuaternary: p.mute,
    colorTextPlaceholder: p.mute,
    colorTextDisabled: p.mute,
    colorBgBase: p.sheet,
    colorBgContainer: p.sheet,
    colorBgElevated: p.sheet,
    colorBgLayout: p.paper,
    colorBgSpotlight: isDark ? '#f3eadb' : p.night,
    colorTextLightSolid: isDark ? '#ffffff' : '#fffdf8',
    colorBgMask: 'rgba(18,14,10,.6)',
    colorBgContainerDisabled: p.shade,
    colorBorder: p.edge,
    colorBorderSecondary: p.line,
    colorSplit: p.line,
    controlItemBgHover: p.hover,
    controlItemBgActive: p.act2,
    controlItemBgActiveHover: p.act3,
    controlOutline: p.lamp,
    colorWarningOutline: p.lamp,
    colorErrorOutline: p.stopEdge,
    colorLink: p.actInk,
    colorLinkHover: p.actInk,
    colorLinkActive: p.actInk,
    linkDecoration: 'underline',
    linkHoverDecoration: 'underline',
    linkFocusDecoration: 'underline',
    ...shadesOf('Primary', ...act, p.edge),
    ...shadesOf('Info', ...act, p.okEdge),
    ...shadesOf('Success', p.ok, p.okInk, p.okInk, p.ok2, p.ok2, p.okEdge),
    ...shadesOf('Warning', p.warn, p.warnInk, p.warnInk, p.warn2, p.warn3, p.warnEdge),
    ...shadesOf('Error', p.stopText, p.stopHover, p.stopDown, p.stop2, p.stop3, p.stopEdge),
  } as ThemeConfig['token']
  return {
    token,
    algorithm: isDark ? antTheme.darkAlgorithm : antTheme.defaultAlgorithm,
    components: {
      Table: { colorFillAlter: p.shade, colorFillContent: p.line, padding: 10, paddingXS: 7 } as object,
      Tooltip: { colorTextLightSolid: isDark ? '#231e18' : '#fffdf8' } as object,
    },
  }
}
