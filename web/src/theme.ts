/** The one place where the look is said: tokens for our own surfaces and for Ant Design Vue. */

export const tokens = {
  card: '#F6F3EC',
  ink: '#23262B',
  ribbon: '#B3324C',
  kraft: '#C2A173',
  mat: '#E1E7E2',
  matLine: '#C6D0CA',
  fine: '#3C7A57',
  caution: '#A86B12',
  grey: '#777777',
} as const

export const antTheme = {
  token: {
    colorPrimary: tokens.ribbon,
    colorText: tokens.ink,
    colorBgContainer: '#FFFDF8',
    colorBgElevated: '#FFFDF8',
    colorSuccess: tokens.fine,
    colorWarning: tokens.caution,
    borderRadius: 2,
    fontFamily: "'Instrument Sans', sans-serif",
    fontSize: 13,
    controlHeight: 30,
    motionDurationMid: '0.12s',
  },
}
