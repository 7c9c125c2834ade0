import { useQuery } from "@tanstack/react-query";
import { useLocation } from "react-router";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";

export const JOIN = "/join";

/** What the link carries by which somebody came here; it stands behind the #, which no server is
 * told. */
export function useSecret(): string {
  const { pathname, hash } = useLocation();
  return pathname === JOIN ? hash.slice(1) : "";
}

/** Where it leads. */
export const useInvited = (secret: string) =>
  useQuery<Schemas["Invited"], ApiProblem>({
    queryKey: ["invited", secret],
    queryFn: () => told(api.POST("/api/v1/auth/invitation", { body: { secret } })),
    enabled: secret !== "",
    retry: false,
  });

const MAY: Record<Schemas["Invited"]["role"], string> = {
  owner: "You could measure, correct, and decide who is in.",
  maker: "You could measure and correct.",
  viewer: "You could look at everything there.",
};

/** What it says, in words. */
export const invitedTo = ({ by, workshop, role }: Schemas["Invited"]): string =>
  `${by} invites you to “${workshop}”. ${MAY[role]}`;
