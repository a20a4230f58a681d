/** Who is signed in decides what there is: the sign-in page, or the frame with its pages. */
import { lazy, Suspense } from "react";
import { Navigate, Route, Routes, useMatch } from "react-router";
import { useSession } from "./api/queries.ts";
import { AccountPage } from "./pages/account/account-page.tsx";
import { AlertsPage } from "./pages/alerts/alerts-page.tsx";
import { BoardPage } from "./pages/board/board-page.tsx";
import { DevicePage } from "./pages/devices/device-page.tsx";
import { DevicesPage } from "./pages/devices/devices-page.tsx";
import { LabelsPage } from "./pages/devices/labels-page.tsx";
import { RecordPage } from "./pages/devices/record-page.tsx";
import { HistoryPage } from "./pages/history/history-page.tsx";
import { InletsPage } from "./pages/inlets/inlets-page.tsx";
import { LogPage } from "./pages/log/log-page.tsx";
import { NotificationsPage } from "./pages/notifications/notifications-page.tsx";
import { FirstOwnerPage } from "./pages/setup/first-owner-page.tsx";
import { SetupPage } from "./pages/setup/setup-page.tsx";
import { ResetPage } from "./pages/sign-in/reset-page.tsx";
import { SignInPage } from "./pages/sign-in/sign-in-page.tsx";
import { StatisticsPage } from "./pages/statistics/statistics-page.tsx";
import { TeamPage } from "./pages/team/team-page.tsx";
import { WirePage } from "./pages/wire/wire-page.tsx";
import { Frame } from "./parts/frame.tsx";

/** These read YAML: only who edits a profile or an inlet pays for that. */
const ProfilesPage = lazy(async () => ({
  default: (await import("./pages/profiles/profiles-page.tsx")).ProfilesPage,
}));
const SitePage = lazy(async () => ({ default: (await import("./pages/site/site-page.tsx")).SitePage }));
const TranslatorsPage = lazy(async () => ({
  default: (await import("./pages/translators/translators-page.tsx")).TranslatorsPage,
}));
const InletPage = lazy(async () => ({ default: (await import("./pages/inlets/inlet-page.tsx")).InletPage }));

export function App() {
  const session = useSession();
  const resetting = useMatch("/reset/:token");
  const settingUp = useMatch("/setup");
  if (resetting)
    return (
      <Routes>
        <Route path="/reset/:token" element={<ResetPage />} />
      </Routes>
    );
  if (session.isPending) return null;
  if (!session.data && settingUp) return <FirstOwnerPage />;
  if (!session.data) return <SignInPage trouble={session.trouble} />;
  if (session.data.mustEnrol) return <AccountPage />;
  return (
    <Routes>
      <Route element={<Frame session={session.data} />}>
        <Route path="/board/:site?" element={<BoardPage />} />
        <Route path="/board/:site/trace/:request" element={<BoardPage />} />
        <Route path="/log" element={<LogPage />} />
        <Route path="/log/trace/:request" element={<LogPage />} />
        <Route path="/alerts" element={<AlertsPage />} />
        <Route path="/statistics" element={<StatisticsPage />} />
        <Route path="/history/:site/:device/:channel" element={<HistoryPage />} />
        <Route path="/devices" element={<DevicesPage />} />
        <Route
          path="/devices/profiles"
          element={
            <Suspense fallback={null}>
              <ProfilesPage />
            </Suspense>
          }
        />
        <Route
          path="/devices/translators"
          element={
            <Suspense fallback={null}>
              <TranslatorsPage />
            </Suspense>
          }
        />
        <Route
          path="/sites/:site"
          element={
            <Suspense fallback={null}>
              <SitePage />
            </Suspense>
          }
        />
        <Route path="/devices/:site/:device" element={<DevicePage />} />
        <Route path="/devices/:site/:device/labels" element={<LabelsPage />} />
        <Route path="/devices/:site/:device/record" element={<RecordPage />} />
        <Route path="/inlets" element={<InletsPage />} />
        <Route
          path="/inlets/:inlet"
          element={
            <Suspense fallback={null}>
              <InletPage />
            </Suspense>
          }
        />
        <Route path="/notifications" element={<NotificationsPage />} />
        <Route path="/wire" element={<WirePage />} />
        <Route path="/access" element={<TeamPage />} />
        <Route path="/account" element={<AccountPage />} />
        <Route path="/setup" element={<SetupPage />} />
        <Route path="*" element={<Navigate to="/board" replace />} />
      </Route>
    </Routes>
  );
}
