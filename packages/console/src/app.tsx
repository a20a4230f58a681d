/** Who is signed in decides what there is: the sign-in page, or the frame with its pages. */
import type { SessionView } from "@bold-relay/api";
import { Suspense, useDeferredValue } from "react";
import { Redirect, Route, Switch, useRoute } from "wouter";
import { useSession } from "./api/session.ts";
import { BoardPage } from "./pages/board/board-page.tsx";
import {
  AccountPage,
  AlertsPage,
  DevicePage,
  DevicesPage,
  FirstOwnerPage,
  HistoryPage,
  InletPage,
  InletsPage,
  LabelsPage,
  LogPage,
  MapPage,
  NotificationsPage,
  OfflinePage,
  ProfilesPage,
  RecordPage,
  ResetPage,
  SetupPage,
  SignInPage,
  SitePage,
  StatisticsPage,
  TeamPage,
  TranslatorsPage,
  WirePage,
} from "./pages.ts";
import { Frame } from "./parts/frame.tsx";
import { PageBoundary } from "./parts/page-boundary.tsx";
import { SignInAgain } from "./parts/sign-in-again.tsx";

export function App() {
  return (
    <PageBoundary>
      <Suspense fallback={null}>
        <Entrance />
      </Suspense>
    </PageBoundary>
  );
}

function Entrance() {
  // Deferred, so that the first drawing of a page is done in pieces, and a press is heard in between.
  const session = useDeferredValue(useSession());
  const [resetting] = useRoute("/reset/:token?");
  const [settingUp] = useRoute("/setup");
  if (resetting)
    return (
      <Route path="/reset/:token?">
        <ResetPage />
      </Route>
    );
  if (session.isPending) return null;
  if (!session.data && session.unreachable) return <OfflinePage />;
  if (!session.data && settingUp) return <FirstOwnerPage />;
  if (!session.data) return <SignInPage trouble={session.trouble} />;
  return (
    <>
      <Signed session={session.data} />
      <SignInAgain member={session.data} />
    </>
  );
}

function Signed({ session }: { session: SessionView }) {
  if (session.mustEnrol) return <AccountPage />;
  return (
    <Frame session={session}>
      <Switch>
        <Route path="/board/:site?" component={BoardPage} />
        <Route path="/board/:site/trace/:request" component={BoardPage} />
        <Route path="/log" component={LogPage} />
        <Route path="/log/trace/:request" component={LogPage} />
        <Route path="/alerts" component={AlertsPage} />
        <Route path="/statistics" component={StatisticsPage} />
        <Route path="/history/:site/:device/:channel" component={HistoryPage} />
        <Route path="/map" component={MapPage} />
        <Route path="/devices" component={DevicesPage} />
        <Route path="/devices/profiles" component={ProfilesPage} />
        <Route path="/devices/translators" component={TranslatorsPage} />
        <Route path="/sites/:site" component={SitePage} />
        <Route path="/devices/:site/:device" component={DevicePage} />
        <Route path="/devices/:site/:device/labels" component={LabelsPage} />
        <Route path="/devices/:site/:device/record" component={RecordPage} />
        <Route path="/inlets" component={InletsPage} />
        <Route path="/inlets/:inlet" component={InletPage} />
        <Route path="/notifications" component={NotificationsPage} />
        <Route path="/wire" component={WirePage} />
        <Route path="/access" component={TeamPage} />
        <Route path="/account" component={AccountPage} />
        <Route path="/setup" component={SetupPage} />
        <Route>
          <Redirect to="/board" replace />
        </Route>
      </Switch>
    </Frame>
  );
}
