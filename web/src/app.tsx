import CssBaseline from "@mui/material/CssBaseline";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { type ApiProblem, drawFor, whenSessionEnds } from "./api/client";
import { flush, sendFor, startOutbox } from "./api/outbox";
import { keepNews, keys, type Me, useMe } from "./api/queries";
import { Frame } from "./parts/Frame";
import { Failed, Loading } from "./parts/Waiting";
import { JOIN } from "./screens/signin/invitation";
import { SessionEnded } from "./screens/signin/SessionEnded";
import { SignIn } from "./screens/signin/SignIn";
import { SettingsProvider, useSettings } from "./settings";
import { themeFor } from "./theme";

const Workshop = lazy(() => import("./screens/workshop/Workshop"));
const Machine = lazy(() => import("./screens/machine/Machine"));
const MachineForm = lazy(() => import("./screens/machine/MachineForm"));
const Stage = lazy(() => import("./screens/machine/Stage"));
const Bed = lazy(() => import("./screens/bed/Bed"));
const Evening = lazy(() => import("./screens/evening/Evening"));
const Check = lazy(() => import("./screens/check/Check"));
const Logbook = lazy(() => import("./screens/logbook/Logbook"));
const Kit = lazy(() => import("./screens/kit/Kit"));
const Jobs = lazy(() => import("./screens/jobs/Jobs"));
const Job = lazy(() => import("./screens/jobs/Job"));
const JobForm = lazy(() => import("./screens/jobs/JobForm"));
const Search = lazy(() => import("./screens/symptoms/Search"));
const OfMachine = lazy(() => import("./screens/symptoms/OfMachine"));
const OfWorkshop = lazy(() => import("./screens/symptoms/OfWorkshop"));
const Account = lazy(() => import("./screens/account/Account"));
const Join = lazy(() => import("./screens/signin/Join"));
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

const besideMe = (query: { queryKey: readonly unknown[] }) => query.queryKey[0] !== keys.me[0];
const forget = () => client.removeQueries({ predicate: besideMe });

function Screens() {
  const me = useMe();
  // who this page is drawn for: it stays, with what is typed on it, when their session ends
  const [who, setWho] = useState<Me | null>(null);
  const known = me.data;
  useEffect(() => {
    if (!known?.signed_in) return;
    // nothing of theirs stays for who comes next
    if (who && who.id !== known.id) forget();
    drawFor(known.id ?? "");
    sendFor(known.id ?? "");
    setWho(known);
  }, [known, who]);
  if (me.isPending) return <Loading />;
  if (me.isError) return <Failed problem={me.error} again={() => void me.refetch()} />;
  const entered = (now: Me) => {
    client.setQueryData(keys.me, now);
    if (now.id === who?.id) void client.invalidateQueries({ predicate: besideMe });
    void flush();
  };
  const left = (nobody: Me) => {
    sendFor("");
    drawFor("");
    setWho(null);
    client.setQueryData(keys.me, nobody);
    forget();
  };
  if (me.data.signed_in && me.data.id !== who?.id) return <Loading />;
  if (!who) return <SignIn demoOffered={me.data.demo_offered ?? false} entered={entered} />;
  const first = who.workshops?.[0];
  return (
    <Frame key={who.id} me={who} left={left}>
      {!me.data.signed_in && (
        <SessionEnded who={who} entered={entered} leave={() => left(me.data)} />
      )}
      <Suspense fallback={<Loading />}>
        <Routes>
          <Route path="/w/:workshopId" element={<Workshop />} />
          <Route path="/w/:workshopId/logbook" element={<Logbook />} />
          <Route path="/w/:workshopId/kit" element={<Kit />} />
          <Route path="/w/:workshopId/jobs" element={<Jobs />} />
          <Route path="/w/:workshopId/new-job" element={<JobForm />} />
          <Route path="/jobs/:jobId" element={<Job />} />
          <Route path="/jobs/:jobId/edit" element={<JobForm />} />
          <Route path="/w/:workshopId/members" element={<Members />} />
          <Route path="/w/:workshopId/new-machine" element={<MachineForm />} />
          <Route path="/machines/:machineId" element={<Machine />} />
          <Route path="/machines/:machineId/edit" element={<MachineForm />} />
          <Route path="/machines/:machineId/stages/:stage" element={<Stage />} />
          <Route path="/machines/:machineId/bed" element={<Bed />} />
          <Route path="/machines/:machineId/symptoms" element={<OfMachine />} />
          <Route path="/machines/:machineId/symptoms/:key" element={<Search />} />
          <Route path="/w/:workshopId/symptoms" element={<OfWorkshop />} />
          <Route path="/machines/:machineId/evening" element={<Evening />} />
          <Route path="/checks/:checkId" element={<Check />} />
          <Route path={JOIN} element={<Join me={who} />} />
          <Route path="/account" element={<Account me={who} left={left} />} />
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
    whenSessionEnds(() => void client.invalidateQueries({ queryKey: keys.me }));
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
