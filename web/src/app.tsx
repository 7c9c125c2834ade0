import CssBaseline from "@mui/material/CssBaseline";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useMemo } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import type { ApiProblem } from "./api/client";
import { startOutbox } from "./api/outbox";
import { keepNews, useMe } from "./api/queries";
import { Frame } from "./parts/Frame";
import { Failed, Loading } from "./parts/Waiting";
import { SignIn } from "./screens/signin/SignIn";
import { SettingsProvider, useSettings } from "./settings";
import { themeFor } from "./theme";

const Workshop = lazy(() => import("./screens/workshop/Workshop"));
const Machine = lazy(() => import("./screens/machine/Machine"));
const MachineForm = lazy(() => import("./screens/machine/MachineForm"));
const Stage = lazy(() => import("./screens/machine/Stage"));
const Evening = lazy(() => import("./screens/evening/Evening"));
const Check = lazy(() => import("./screens/check/Check"));
const Logbook = lazy(() => import("./screens/logbook/Logbook"));
const Kit = lazy(() => import("./screens/kit/Kit"));
const Account = lazy(() => import("./screens/account/Account"));
const Members = lazy(() => import("./screens/account/Members"));

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // a definite answer will not change by asking again; a lost connection may
      retry: (count, error) => count < 2 && (error as ApiProblem).temporary,
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

function Screens() {
  const me = useMe();
  if (me.isPending) return <Loading />;
  if (me.isError) return <Failed problem={me.error} again={() => void me.refetch()} />;
  if (!me.data.signed_in) return <SignIn demoOffered={me.data.demo_offered ?? false} />;
  const first = me.data.workshops?.[0];
  return (
    <Frame me={me.data}>
      <Suspense fallback={<Loading />}>
        <Routes>
          <Route path="/w/:workshopId" element={<Workshop />} />
          <Route path="/w/:workshopId/logbook" element={<Logbook />} />
          <Route path="/w/:workshopId/kit" element={<Kit />} />
          <Route path="/w/:workshopId/members" element={<Members />} />
          <Route path="/w/:workshopId/new-machine" element={<MachineForm />} />
          <Route path="/machines/:machineId" element={<Machine />} />
          <Route path="/machines/:machineId/edit" element={<MachineForm />} />
          <Route path="/machines/:machineId/stages/:stage" element={<Stage />} />
          <Route path="/machines/:machineId/evening" element={<Evening />} />
          <Route path="/checks/:checkId" element={<Check />} />
          <Route path="/account" element={<Account me={me.data} />} />
          <Route
            path="*"
            element={<Navigate to={first ? `/w/${first.id}` : "/account"} replace />}
          />
        </Routes>
      </Suspense>
    </Frame>
  );
}

function Themed() {
  const { theme } = useSettings();
  return (
    <ThemeProvider theme={useMemo(() => themeFor(theme), [theme])}>
      <CssBaseline />
      <Screens />
    </ThemeProvider>
  );
}

export function App() {
  useEffect(() => {
    void startOutbox((news) => keepNews(client, news));
  }, []);
  return (
    <QueryClientProvider client={client}>
      <SettingsProvider>
        <BrowserRouter>
          <Themed />
        </BrowserRouter>
      </SettingsProvider>
    </QueryClientProvider>
  );
}
