// What a place shows is part of its address, so that a link opens the same again.
import { useCallback } from 'react';
import { useLocation, useNavigate, useSearchParams } from 'react-router';

/**
 * The parameters of this place's address, and a way to change some of them (null takes one away). A change starts from
 * what the address says at that moment, so that two in one action add up, and does nothing once the person has gone to
 * another place, so that work that ends late calls nobody back.
 */
export function useAddress(): readonly [URLSearchParams, (set: Readonly<Record<string, string | null>>) => void] {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const put = useCallback(
    (set: Readonly<Record<string, string | null>>) => {
      if (window.location.pathname !== pathname) return;
      const next = new URLSearchParams(window.location.search);
      for (const [k, v] of Object.entries(set))
        if (v === null) next.delete(k);
        else next.set(k, v);
      void navigate({ pathname, search: next.toString() }, { replace: true });
    },
    [navigate, pathname],
  );
  return [search, put];
}
