<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Algorithms\Parallel\ChildEnd;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Geometry\RigidTransform;

/**
 * Reads files in processes of their own, with limits of memory and time: a file that is hostile or simply too large ends its own
 * process, not the one that asked. Each thing read becomes a blob in a folder; the processes run side by side.
 */
final readonly class ReadApart
{
    /** Of a second, between two looks at the processes; a stop is heard as quickly. */
    private const LOOK_US = 10_000;

    public function __construct(private int $memoryMb = 3000, private float $seconds = 900.0)
    {
    }

    /**
     * @param  list<string>  $files
     * @param  string  $folder  where the blobs go; the caller's to empty
     * @param  array<int, TextColumns>  $columns  what the columns of a text file mean, by index of the file
     * @return list<list<ReadThing>|UnreadableFile> for each file what it held, or why it could not be read
     */
    public function __invoke(array $files, string $folder, int $workers, Progress $progress, array $columns = []): array
    {
        $before = ChildEnd::killedForMemory();
        $results = $running = [];
        $next = 0;
        try {
            while (count($results) < count($files)) {
                while ($next < count($files) && count($running) < max(1, $workers)) {
                    $running[$next] = $this->start($files[$next], "$folder/$next", $columns[$next] ?? null);
                    $next++;
                }
                foreach ($running as $k => [$process, $since]) {
                    $status = proc_get_status($process);
                    $late = $status['running'] && microtime(true) - $since > $this->seconds;
                    if ($status['running'] && ! $late) {
                        continue;
                    }
                    $late && proc_terminate($process, SIGKILL);
                    unset($running[$k]);
                    proc_close($process);
                    $results[$k] = $late
                        ? UnreadableFile::at($files[$k], '', sprintf('reading it took longer than %.0f s; split it, or thin it in the scanner', $this->seconds))
                        : $this->result($files[$k], "$folder/$k", $status['exitcode'], $status['signaled'] ? ChildEnd::ofSignal($status['pid'], $status['termsig'], $before) : null);
                }
                $progress->advance('reading', count($results) / count($files));
                usleep(self::LOOK_US);
            }
        } finally {
            foreach ($running as [$process]) {
                proc_terminate($process, SIGKILL);
                proc_close($process);
            }
        }
        ksort($results);

        return array_values($results);
    }

    /** @return array{resource, float} */
    private function start(string $file, string $out, ?TextColumns $columns): array
    {
        $bin = dirname(__DIR__, 2).'/bin';
        $process = proc_open(
            ["$bin/php-jit", "$bin/emberstone", 'blobs', $file, '--out', $out, '--memory', (string) $this->memoryMb, ...($columns === null ? [] : ['--columns', implode(',', $columns->roles)])],
            [['file', '/dev/null', 'r'], ['file', "$out.json", 'w'], ['file', "$out.error", 'w']], $pipes, null, ['EMBERSTONE_JIT' => '1'] + getenv(),
        );
        if ($process === false) {
            throw UnreadableFile::at($file, '', 'the machine would not start a process to read it');
        }

        return [$process, microtime(true)];
    }

    /**
     * @param  string|null  $killed  by what the process was ended, where it did not end by itself
     * @return list<ReadThing>|UnreadableFile
     */
    private function result(string $file, string $out, int $exit, ?string $killed): array|UnreadableFile
    {
        $said = trim((string) file_get_contents("$out.error"));
        if ($exit !== 0) {
            return match (true) {
                str_contains($said, 'Allowed memory size') => UnreadableFile::at($file, '', "reading it takes more than $this->memoryMb MB of memory; split it, or thin it in the scanner"),
                str_starts_with($said, 'emberstone: '.basename($file)) => UnreadableFile::at($file, '', ltrim(substr($said, strlen('emberstone: '.basename($file))), ',: ')),
                default => UnreadableFile::at($file, '', $killed ?? "it could not be read; the process that read it ended early with status $exit"),
            };
        }
        $things = [];
        foreach (json_decode((string) file_get_contents("$out.json"), true, 32, JSON_THROW_ON_ERROR) as $one) {
            $things[] = new ReadThing("$out/{$one['blob']}", $one['kind'], $one['name'], $one['points'], $one['faces'], Unit::tryFrom((string) $one['unit']), RigidTransform::fromMatrix($one['pose']), $one['size'], $one['notes'], $one['quads']);
        }

        return $things;
    }
}
