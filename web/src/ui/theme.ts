import { createTheme, type MantineColorsTuple } from "@mantine/core";

const tawny: MantineColorsTuple = [
  "#fbf1ea",
  "#f3e0d2",
  "#e6bfa2",
  "#d99b6e",
  "#ce7d44",
  "#c26a2c",
  "#b65d22",
  "#a9501c",
  "#8d4216",
  "#703411",
];
const slate: MantineColorsTuple = [
  "#eef3f6",
  "#dde6ec",
  "#bacbd7",
  "#95aec0",
  "#7695ac",
  "#5f829c",
  "#54778f",
  "#4d6b84",
  "#3f586d",
  "#314556",
];
const bad: MantineColorsTuple = [
  "#fbecee",
  "#f5dde0",
  "#e9b4bb",
  "#dd8a95",
  "#cf6473",
  "#b94456",
  "#aa3447",
  "#9e2b3c",
  "#842331",
  "#691b26",
];

export const theme = createTheme({
  colors: { tawny, slate, bad },
  primaryColor: "tawny",
  primaryShade: { light: 7, dark: 6 },
  defaultRadius: 4,
  fontFamily: '"Atkinson Hyperlegible Next Variable", sans-serif',
  fontFamilyMonospace: '"Atkinson Hyperlegible Mono", monospace',
  fontSizes: { xs: "12px", sm: "14px", md: "14px", lg: "16px", xl: "20px" },
  headings: { fontFamily: '"Bricolage Grotesque Variable", sans-serif', fontWeight: "650" },
  cursorType: "pointer",
  respectReducedMotion: true,
  focusRing: "always",
  components: {
    Drawer: { defaultProps: { closeButtonProps: { "aria-label": "Close" } } },
    Modal: { defaultProps: { closeButtonProps: { "aria-label": "Close" } } },
    Notification: { defaultProps: { closeButtonProps: { "aria-label": "Close" } } },
    // A menu that is open stays, also where what arrives meanwhile moves its field out of sight.
    Popover: { defaultProps: { hideDetached: false } },
    Combobox: { defaultProps: { hideDetached: false } },
    Button: { defaultProps: { size: "xs" }, styles: { root: { height: 32, fontSize: 13 } } },
    TextInput: { defaultProps: { size: "xs" } },
    NumberInput: { defaultProps: { size: "xs", hideControls: true } },
    Select: { defaultProps: { size: "xs", comboboxProps: { shadow: "sm" } } },
    MultiSelect: { defaultProps: { size: "xs" } },
    TagsInput: { defaultProps: { size: "xs" } },
    Textarea: { defaultProps: { size: "xs" } },
  },
});
