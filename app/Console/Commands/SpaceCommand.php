<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Services\SpaceTaken;
use Illuminate\Console\Command;

/** What takes the space: for the one who runs the installation. Keepers see the same on their account page. */
final class SpaceCommand extends Command
{
    protected $signature = 'emberstone:space';

    protected $description = 'Says what takes the space: projects, uploads, captures, the cache';

    public function handle(SpaceTaken $space): int
    {
        $report = $space->report();
        $this->line(sprintf('%.0f %% of the disk is in use, %.1f GB are free.', 100.0 * $report['used'], $report['free'] / 1e9));
        foreach ($report['things'] as $thing) {
            $this->row($thing['what'], $thing['bytes']);
        }
        $this->line('Geometry by project:');
        foreach ($report['projects'] as $project) {
            $this->row("\"{$project['name']}\" of {$project['owner']}", $project['bytes']);
        }

        return self::SUCCESS;
    }

    private function row(string $what, float $bytes): void
    {
        $this->line(sprintf('%10.1f MB  %s', $bytes / 1e6, $what));
    }
}
