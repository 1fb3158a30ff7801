import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, take } from '@/api/client'

/** One of the board's lists, page after page; what is looked for is asked of the server. */
export function useBoard(list: 'standing' | 'signed' | 'due', find: Ref<string>, limit: number) {
  const { data, error, isPending, isSuccess, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({
    queryKey: computed(() => ['board', list, find.value]),
    queryFn: ({ pageParam }) =>
      take(
        api.GET('/api/board', {
          params: { query: { list, limit, find: find.value || undefined, after: pageParam || undefined } },
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next || undefined,
    refetchInterval: 10_000,
    placeholderData: (before) => before,
  })
  return {
    lines: computed(() => data.value?.pages.flatMap((p) => p.lines) ?? []),
    error,
    isPending,
    /** It was read: an empty list is one. */
    known: isSuccess,
    hasMore: hasNextPage,
    more: () => void fetchNextPage(),
    isFetchingMore: isFetchingNextPage,
  }
}
