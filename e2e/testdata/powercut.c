/*
 * What would be on the disk after a power cut: a copy of each file as of its last
 * synchronisation. Loaded before the C library (LD_PRELOAD), it copies a file into the
 * directory that POWERCUT names whenever the program has it synchronised, before the
 * program hears that it was.
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <fcntl.h>
#include <limits.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

/* A directory that is synchronised forgets what was removed from it. */
static void forget(const char *dir, const char *to)
{
	static const char *const kind[] = {"", "-wal", "-journal"};
	char is[PATH_MAX + 64], was[PATH_MAX + 64];

	for (int i = 0; i < 3; i++) {
		snprintf(is, sizeof is, "%s/jadegate.db%s", dir, kind[i]);
		snprintf(was, sizeof was, "%s/jadegate.db%s", to, kind[i]);
		if (access(is, F_OK))
			unlink(was);
	}
}

static void snap(int fd)
{
	struct stat st;
	const char *to = getenv("POWERCUT");
	char link[64], path[PATH_MAX], part[PATH_MAX + 64], name[PATH_MAX + 64], buf[1 << 16];
	off_t at = 0;
	ssize_t n;
	int out;

	if (!to)
		return;
	snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
	n = readlink(link, path, sizeof path - 1);
	if (n <= 0)
		return;
	path[n] = 0;
	if (!fstat(fd, &st) && S_ISDIR(st.st_mode)) {
		forget(path, to);
		return;
	}
	if (!strstr(path, "jadegate.db"))
		return;
	snprintf(name, sizeof name, "%s/%s", to, strrchr(path, '/') + 1);
	snprintf(part, sizeof part, "%s.%d.part", name, fd);
	out = open(part, O_WRONLY | O_CREAT | O_TRUNC, 0600);
	if (out < 0)
		abort();
	while ((n = pread(fd, buf, sizeof buf, at)) > 0) {
		if (write(out, buf, n) != n)
			abort();
		at += n;
	}
	close(out);
	if (rename(part, name))
		abort();
}

int fsync(int fd)
{
	int (*real)(int) = dlsym(RTLD_NEXT, "fsync");
	int r = real(fd);
	if (!r)
		snap(fd);
	return r;
}

int fdatasync(int fd)
{
	int (*real)(int) = dlsym(RTLD_NEXT, "fdatasync");
	int r = real(fd);
	if (!r)
		snap(fd);
	return r;
}
