<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Parallel;

/** Why a process that was started here left no answer: which one, by which signal, and for lack of memory only if the system says so. */
final class ChildEnd
{
    private const SIGNALS = [SIGKILL => 'SIGKILL', SIGTERM => 'SIGTERM', SIGINT => 'SIGINT', SIGSEGV => 'SIGSEGV', SIGBUS => 'SIGBUS', SIGABRT => 'SIGABRT', SIGILL => 'SIGILL', SIGFPE => 'SIGFPE', SIGHUP => 'SIGHUP', SIGPIPE => 'SIGPIPE', SIGQUIT => 'SIGQUIT'];

    /**
     * @param  int  $status  of waitpid(2)
     * @param  int  $killedBefore  killedForMemory() when the process was started
     */
    public static function words(int $pid, int $status, int $killedBefore): string
    {
        if (! pcntl_wifsignaled($status)) {
            return sprintf('Worker process %d ended early with status %d. Run the step again; if it ends so again, use one worker.', $pid, pcntl_wexitstatus($status));
        }

        return self::ofSignal($pid, (int) pcntl_wtermsig($status), $killedBefore);
    }

    public static function ofSignal(int $pid, int $signal, int $killedBefore): string
    {
        $name = self::SIGNALS[$signal] ?? "signal $signal";
        if ($signal === SIGKILL && self::killedForMemory() > $killedBefore) {
            return "Worker process $pid was ended by the system (SIGKILL), for the machine ran out of memory. Close other programs, or use one worker or a coarser voxel.";
        }

        return "Worker process $pid was ended from outside (by $name) before it had answered. Run the step again.";
    }

    /** How many processes the system has killed since it began because memory had run out; 0 where it does not say. */
    public static function killedForMemory(): int
    {
        $all = 0;
        foreach (['/proc/vmstat', '/sys/fs/cgroup/memory.events'] as $file) {
            if (is_readable($file) && preg_match('/^oom_kill (\d+)$/m', (string) @file_get_contents($file), $found) === 1) {
                $all += (int) $found[1];
            }
        }

        return $all;
    }
}
