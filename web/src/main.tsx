import "./index.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { StrictMode, useEffect, useState } from "react";
import { createRoot } from "react-dom/client";

import { BenchPage } from "./pages/BenchPage";
import { DeliveryPage } from "./pages/DeliveryPage";
import { JobsPage } from "./pages/JobsPage";
import { listenToAddress } from "./ui/address";
import { Boundary } from "./ui/Boundary";

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

function App() {
  const [path, setPath] = useState(location.pathname);
  useEffect(() => listenToAddress(setPath), []);
  const delivery = /^\/jobs\/(\d+)\/deliveries\/(\d+)$/.exec(path);
  if (delivery) return <DeliveryPage jobId={Number(delivery[1])} deliveryId={Number(delivery[2])} />;
  const job = /^\/jobs\/(\d+)$/.exec(path);
  if (job) return <BenchPage key={job[1]} jobId={Number(job[1])} />;
  return <JobsPage />;
}

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Boundary name="The page">
        <Tooltip.Provider delayDuration={500}>
          <App />
        </Tooltip.Provider>
      </Boundary>
    </QueryClientProvider>
  </StrictMode>,
);
