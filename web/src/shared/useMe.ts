import { useQueryClient } from '@tanstack/react-query';
import type { Person } from '../api/types';

const NOBODY: Person = { id: 0, name: '', build: false, manage: false, run: [] };

/** Who is signed in, with their rights: what they may not do is not offered. */
export function useMe(): Person {
  return useQueryClient().getQueryData<Person>(['me']) ?? NOBODY;
}
