<?php

declare(strict_types=1);

namespace Emberstone\Core\Console;

use Emberstone\Core\Foundation\OperationCancelled;
use Emberstone\Core\Foundation\Progress;

/** A bar on standard error, where that is a terminal. Ctrl-C stops cleanly. */
final class TerminalProgress implements Progress
{
    private float $shown = 0.0;

    private bool $stopped = false;

    private readonly bool $draws;

    public function __construct(bool $quiet)
    {
        $this->draws = ! $quiet && stream_isatty(STDERR);
        if (function_exists('pcntl_signal')) {
            pcntl_async_signals(true);
            foreach ([SIGINT, SIGTERM] as $signal) {
                pcntl_signal($signal, function (): void {
                    $this->stopped = true;
                });
            }
        }
    }

    public function advance(string $stage, float $fraction): void
    {
        if ($this->stopped) {
            throw OperationCancelled::onRequest();
        }
        $now = microtime(true);
        if ($this->draws && $now - $this->shown > 0.1) {
            $this->shown = $now;
            fprintf(STDERR, "\r\033[K%s %3d %% %s", str_pad(str_repeat('▪', (int) (30 * $fraction)), 90, ' '), (int) (100 * $fraction), $stage);
        }
    }

    public function clear(): void
    {
        if ($this->draws) {
            fwrite(STDERR, "\r\033[K");
        }
    }
}
