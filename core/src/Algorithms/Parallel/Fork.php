<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Parallel;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;

/** Spreads independent work over the cores by forking; children inherit all arrays and send back packed bytes. */
final class Fork
{
    /**
     * Runs the tasks, at most $workers at a time, and gives their results in order. Without pcntl, or for one worker, one after the other.
     *
     * @param  list<callable(): string>  $tasks
     * @param  Progress|null  $progress  told as tasks end; a stop ends the children
     * @param  int  $each  tasks that a child is given: to start one takes some 10 ms where the parent holds much
     * @return list<string>
     *
     * @throws UnsuitableInput when a process cannot be started, or one cannot hand over what it found
     */
    public static function map(array $tasks, int $workers, ?Progress $progress = null, string $stage = '', int $each = 1): array
    {
        $n = count($tasks);
        $each = max(1, min($each, intdiv($n + $workers - 1, max(1, $workers))));
        $workers = min($workers, $n);
        if ($workers < 2 || ! function_exists('pcntl_fork')) {
            $results = [];
            foreach ($tasks as $k => $task) {
                $results[] = $task();
                $progress?->advance($stage, ($k + 1) / $n);
            }

            return $results;
        }
        $folder = self::folder();
        $prefix = $folder.'/emberstone-'.getmypid().'-'.bin2hex(random_bytes(6)).'-';
        $killedBefore = ChildEnd::killedForMemory();
        $running = [];
        // By number of the task: the process that had it, and how that ended.
        $ends = [];
        $next = 0;
        $done = 0;
        try {
            while ($done < $n) {
                while ($next < $n && count($running) < $workers) {
                    $pid = pcntl_fork();
                    if ($pid === -1) {
                        throw UnsuitableInput::because('The machine would not start another process; try again with one worker.');
                    }
                    if ($pid === 0) {
                        self::child(array_slice($tasks, $next, $each, true), $prefix);
                    }
                    $running[$pid] = [$next, min($n, $next + $each)];
                    $next += $each;
                }
                // Wait in short slices so that a stop is heard within a second.
                $pid = pcntl_waitpid(-1, $status, WNOHANG);
                if ($pid > 0 && isset($running[$pid])) {
                    [$from, $to] = $running[$pid];
                    for ($k = $from; $k < $to; $k++) {
                        $ends[$k] = [$pid, $status];
                    }
                    $done += $to - $from;
                    unset($running[$pid]);
                } else {
                    usleep(2000);
                }
                $progress?->advance($stage, $done / $n);
            }
            $results = [];
            for ($k = 0; $k < $n; $k++) {
                if (! is_file($prefix.$k)) {
                    $reason = is_file($prefix.$k.'.error') ? (string) file_get_contents($prefix.$k.'.error') : '';
                    $reason = $reason !== '' ? $reason : self::ended($folder, $ends[$k][0], $ends[$k][1], $killedBefore);
                    throw UnsuitableInput::because($reason);
                }
                $results[] = (string) file_get_contents($prefix.$k);
            }

            return $results;
        } finally {
            foreach (array_keys($running) as $pid) {
                posix_kill($pid, SIGKILL);
                pcntl_waitpid($pid, $status);
            }
            foreach (glob($prefix.'*') ?: [] as $file) {
                unlink($file);
            }
        }
    }

    /** Removes answers whose asker was killed before it could. */
    public static function sweep(): void
    {
        foreach (glob(self::folder().'/emberstone-*') ?: [] as $file) {
            if (preg_match('/^emberstone-(\d+)-[0-9a-f]{12}-/', basename($file), $found) === 1 && ! is_dir("/proc/$found[1]")) {
                @unlink($file);
            }
        }
    }

    private static function folder(): string
    {
        return is_writable('/dev/shm') ? '/dev/shm' : sys_get_temp_dir();
    }

    private static function full(string $folder, int $bytes): string
    {
        return sprintf('A worker process could not write its answer of %.1f MB: %s is full. Free some of it, or let it be larger.', $bytes / 1e6, $folder);
    }

    private static function ended(string $folder, int $pid, int $status, int $killedBefore): string
    {
        $free = @disk_free_space($folder);

        return $free !== false && $free < 1e6 ? self::full($folder, 0) : ChildEnd::words($pid, $status, $killedBefore);
    }

    /** @param  array<int, callable(): string>  $tasks */
    private static function child(array $tasks, string $prefix): never
    {
        // A stop meant for the parent must not run the parent's handlers here.
        pcntl_signal(SIGTERM, SIG_DFL);
        pcntl_signal(SIGINT, SIG_DFL);
        foreach ($tasks as $k => $task) {
            try {
                $answer = $task();
                if (@file_put_contents($prefix.$k.'.part', $answer) !== strlen($answer) || ! @rename($prefix.$k.'.part', $prefix.$k)) {
                    @unlink($prefix.$k.'.part');
                    throw new \RuntimeException(self::full(dirname($prefix), strlen($answer)));
                }
            } catch (\Throwable $problem) {
                // Even where the folder is full a short message mostly fits.
                @file_put_contents($prefix.$k.'.error', $problem->getMessage());
            }
        }
        // Not exit(): the child must not close connections or run shutdown functions that it shares with its parent.
        posix_kill((int) getmypid(), SIGKILL);
        exit(1);
    }
}
