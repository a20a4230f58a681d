/** Every page but the Board, and what opens over it: each a file of its own that is fetched when it is opened. */
import { type ComponentType, lazy } from "react";

/** @example page(() => import("./pages/log/log-page.tsx"), "LogPage") */
function page<Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) {
  return lazy(async () => ({ default: (await load())[name] }));
}

export const AccountPage = page(() => import("./pages/account/account-page.tsx"), "AccountPage");
export const AlertsPage = page(() => import("./pages/alerts/alerts-page.tsx"), "AlertsPage");
export const DevicePage = page(() => import("./pages/devices/device-page.tsx"), "DevicePage");
export const DevicesPage = page(() => import("./pages/devices/devices-page.tsx"), "DevicesPage");
export const FirstOwnerPage = page(() => import("./pages/setup/first-owner-page.tsx"), "FirstOwnerPage");
export const HistoryPage = page(() => import("./pages/history/history-page.tsx"), "HistoryPage");
export const InletPage = page(() => import("./pages/inlets/inlet-page.tsx"), "InletPage");
export const InletsPage = page(() => import("./pages/inlets/inlets-page.tsx"), "InletsPage");
export const LabelsPage = page(() => import("./pages/devices/labels-page.tsx"), "LabelsPage");
export const LogPage = page(() => import("./pages/log/log-page.tsx"), "LogPage");
export const MapPage = page(() => import("./pages/map/map-page.tsx"), "MapPage");
export const NotificationsPage = page(
  () => import("./pages/notifications/notifications-page.tsx"),
  "NotificationsPage",
);
export const OfflinePage = page(() => import("./pages/offline/offline-page.tsx"), "OfflinePage");
export const ProfilesPage = page(() => import("./pages/profiles/profiles-page.tsx"), "ProfilesPage");
export const ReasonDialog = lazy(async () => ({ default: (await import("./parts/reason-dialog.tsx")).ReasonDialog }));
export const RecordPage = page(() => import("./pages/devices/record-page.tsx"), "RecordPage");
export const ResetPage = page(() => import("./pages/sign-in/reset-page.tsx"), "ResetPage");
export const SetupPage = page(() => import("./pages/setup/setup-page.tsx"), "SetupPage");
export const SignInPage = lazy(async () => ({
  default: (await import("./pages/sign-in/sign-in-page.tsx")).SignInPage,
}));
export const SitePage = page(() => import("./pages/site/site-page.tsx"), "SitePage");
export const StatisticsPage = page(() => import("./pages/statistics/statistics-page.tsx"), "StatisticsPage");
export const TeamPage = page(() => import("./pages/team/team-page.tsx"), "TeamPage");
export const TracePanel = lazy(async () => ({ default: (await import("./pages/trace/trace-panel.tsx")).TracePanel }));
export const TranslatorsPage = page(() => import("./pages/translators/translators-page.tsx"), "TranslatorsPage");
export const WirePage = page(() => import("./pages/wire/wire-page.tsx"), "WirePage");
