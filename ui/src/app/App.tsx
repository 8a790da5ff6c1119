import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import { createBrowserRouter, Navigate, RouterProvider, useParams } from "react-router";
import { statusOf } from "../api/client";
import { Loading } from "../components/Loading";
import { ErrorPage, NotFound } from "./ErrorPage";
import { Frame } from "./Frame";

const PeoplePage = lazy(() => import("../features/people/PeoplePage").then((m) => ({ default: m.PeoplePage })));
const ImportPage = lazy(() => import("../features/imports/ImportPage").then((m) => ({ default: m.ImportPage })));
const PersonPage = lazy(() => import("../features/people/PersonPage").then((m) => ({ default: m.PersonPage })));
const TemplatesPage = lazy(() =>
  import("../features/templates/TemplatesPage").then((m) => ({ default: m.TemplatesPage })),
);
const TemplatePage = lazy(() =>
  import("../features/templates/TemplatePage").then((m) => ({ default: m.TemplatePage })),
);
const ShelfPage = lazy(() => import("../features/shelf/ShelfPage").then((m) => ({ default: m.ShelfPage })));
const PassagesPage = lazy(() => import("../features/passages/PassagesPage").then((m) => ({ default: m.PassagesPage })));
const StationeryPage = lazy(() =>
  import("../features/stationery/StationeryPage").then((m) => ({ default: m.StationeryPage })),
);
const DocumentsPage = lazy(() =>
  import("../features/documents/DocumentsPage").then((m) => ({ default: m.DocumentsPage })),
);
const LibraryFilesPage = lazy(() =>
  import("../features/files/LibraryFilesPage").then((m) => ({ default: m.LibraryFilesPage })),
);
const FieldsPage = lazy(() => import("../features/fields/FieldsPage").then((m) => ({ default: m.FieldsPage })));
const DealsPage = lazy(() => import("../features/deals/DealsPage").then((m) => ({ default: m.DealsPage })));
const DealPage = lazy(() => import("../features/deals/DealPage").then((m) => ({ default: m.DealPage })));
const CompaniesPage = lazy(() =>
  import("../features/companies/CompaniesPage").then((m) => ({ default: m.CompaniesPage })),
);
const CompanyPage = lazy(() => import("../features/companies/CompanyPage").then((m) => ({ default: m.CompanyPage })));
const CamePage = lazy(() => import("../features/letters/CamePage").then((m) => ({ default: m.CamePage })));
const RoundsPage = lazy(() => import("../features/rounds/RoundsPage").then((m) => ({ default: m.RoundsPage })));
const RoundPage = lazy(() => import("../features/rounds/RoundPage").then((m) => ({ default: m.RoundPage })));
const PlansPage = lazy(() => import("../features/plans/PlansPage").then((m) => ({ default: m.PlansPage })));
const PlanPage = lazy(() => import("../features/plans/PlanPage").then((m) => ({ default: m.PlanPage })));
const PlanWording = lazy(() => import("../features/plans/PlanWording").then((m) => ({ default: m.PlanWording })));
const StartPage = lazy(() => import("../features/plans/StartPage").then((m) => ({ default: m.StartPage })));
const OrderPage = lazy(() => import("../features/orders/OrderPage").then((m) => ({ default: m.OrderPage })));
const RunPage = lazy(() => import("../features/plans/RunPage").then((m) => ({ default: m.RunPage })));
const SettingsPage = lazy(() => import("../features/settings/SettingsPage").then((m) => ({ default: m.SettingsPage })));
const TodayPage = lazy(() => import("../features/today/TodayPage").then((m) => ({ default: m.TodayPage })));
const OptOutsPage = lazy(() => import("../features/optouts/OptOutsPage").then((m) => ({ default: m.OptOutsPage })));
const MePage = lazy(() => import("../features/me/MePage").then((m) => ({ default: m.MePage })));
const LetterPage = lazy(() => import("../features/desk/LetterPage").then((m) => ({ default: m.LetterPage })));
const OutboxPage = lazy(() => import("../features/letters/OutboxPage").then((m) => ({ default: m.OutboxPage })));
const PostOfficePage = lazy(() =>
  import("../features/post/PostOfficePage").then((m) => ({ default: m.PostOfficePage })),
);

const client = new QueryClient({
  defaultOptions: {
    queries: { staleTime: 5_000, retry: (n, error) => n < 2 && statusOf(error) === 0, refetchOnWindowFocus: true },
  },
});

const page = (element: React.ReactNode) => <Suspense fallback={<Loading />}>{element}</Suspense>;

/** A screen of something with a number; an address without one was mistyped. */
function Numbered({ children }: { children: React.ReactNode }) {
  return /^[1-9]\d{0,15}$/.test(useParams().id ?? "") ? children : <NotFound />;
}

const numbered = (element: React.ReactNode) => page(<Numbered>{element}</Numbered>);

const router = createBrowserRouter([
  {
    path: "/",
    element: <Frame />,
    errorElement: <ErrorPage />,
    children: [
      {
        errorElement: <ErrorPage />,
        children: [
          { index: true, element: <Navigate to="/people" replace /> },
          { path: "people", element: page(<PeoplePage />) },
          { path: "people/import", element: page(<ImportPage />) },
          { path: "people/:id", element: numbered(<PersonPage />) },
          { path: "templates", element: page(<TemplatesPage />) },
          { path: "templates/new", element: page(<TemplatePage />) },
          { path: "templates/:id", element: numbered(<TemplatePage />) },
          { path: "shelf", element: page(<ShelfPage />) },
          { path: "passages", element: page(<PassagesPage />) },
          { path: "stationery/:id?", element: page(<StationeryPage />) },
          { path: "documents", element: page(<DocumentsPage />) },
          { path: "library", element: page(<LibraryFilesPage />) },
          { path: "fields", element: page(<FieldsPage />) },
          { path: "today", element: page(<TodayPage />) },
          { path: "deals", element: page(<DealsPage />) },
          { path: "deals/:id", element: numbered(<DealPage />) },
          { path: "companies", element: page(<CompaniesPage />) },
          { path: "companies/:id", element: numbered(<CompanyPage />) },
          { path: "rounds", element: page(<RoundsPage />) },
          { path: "rounds/:id", element: numbered(<RoundPage />) },
          { path: "plans", element: page(<PlansPage />) },
          { path: "plans/:id", element: numbered(<PlanPage />) },
          { path: "plans/:id/steps/:step", element: numbered(<PlanWording />) },
          { path: "plans/:id/start", element: numbered(<StartPage />) },
          { path: "start", element: page(<StartPage />) },
          { path: "orders/:id", element: numbered(<OrderPage />) },
          { path: "runs/:id", element: numbered(<RunPage />) },
          { path: "came/:id", element: numbered(<CamePage />) },
          { path: "settings", element: page(<SettingsPage />) },
          { path: "opt-outs", element: page(<OptOutsPage />) },
          { path: "me", element: page(<MePage />) },
          { path: "letters/:id", element: numbered(<LetterPage />) },
          { path: "outbox", element: page(<OutboxPage />) },
          { path: "post-office", element: page(<PostOfficePage />) },
          { path: "post-office/:mailbox", element: page(<PostOfficePage />) },
          { path: "*", element: <NotFound /> },
        ],
      },
    ],
  },
]);

export function App() {
  return (
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  );
}
