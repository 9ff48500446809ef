<?php

declare(strict_types=1);

namespace Emberstone\Core\Console;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Algorithms\Parallel\Memory;
use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\ReadThing;
use Emberstone\Core\Exchange\TextColumns;
use Emberstone\Core\Exchange\Weld;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Scratch;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Measure\SurfaceDistance;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Recipe\Recipe;
use Emberstone\Core\Recipe\Report;
use Emberstone\Core\Recipe\Run;
use Emberstone\Core\Recipe\RunState;
use Emberstone\Core\Rigs\Catalogue as Rigs;
use Emberstone\Core\Rigs\ExactSurface;

/** The command line of the core. Answers go to standard output, all else to standard error. */
final class Application
{
    private const USAGE = <<<'TEXT'
        emberstone inspect FILE
        emberstone run RECIPE.json PASS... --out DIR [--format ply] [--workers N] [--memory MB] [--quiet]
        emberstone run [RECIPE.json] --resume DIR [--workers N] [--memory MB] [--quiet]     (goes on where a run into DIR stopped; a recipe may put the failed step right)
        emberstone convert IN OUT [--ascii] [--unit mm|cm|m|in|ft] [--weld TOLERANCE]
        emberstone compare A B [--samples N]
        emberstone simulate PART --rig RIG --out DIR [--seed N] [--density POINTS_A_MM2]     (--list names parts and rigs)
        emberstone blobs FILE --out DIR [--memory MB] [--columns x,y,z,skip,...]  (reads a file into blobs, as the application does)
        emberstone schema

        TEXT;

    /**
     * @param  list<string>  $words  without the script's name
     * @return int exit status
     */
    public function run(array $words): int
    {
        $command = array_shift($words) ?? '';
        try {
            return match ($command) {
                'inspect' => $this->inspect($words),
                'run' => $this->runRecipe($words),
                'convert' => $this->convert($words),
                'compare' => $this->compare($words),
                'simulate' => $this->simulate($words),
                'blobs' => $this->blobs($words),
                'schema' => $this->answer(Recipe::schema()),
                'help', '--help', '-h' => $this->usage(STDOUT),
                default => throw new UsageError(($command === '' ? 'say what to do' : "\"$command\" is not a command").': inspect, run, convert, compare, simulate, blobs, schema or help'),
            };
        } catch (UsageError|InvalidParameter|UnreadableFile $problem) {
            return $this->fail($problem, 2);
        } catch (EmberstoneException $problem) {
            return $this->fail($problem, 1);
        } catch (\Throwable $problem) {
            return $this->fail($problem, 1, 'this should not happen: '.$problem->getTraceAsString());
        }
    }

    private function fail(\Throwable $problem, int $status, string $before = ''): int
    {
        fwrite(STDERR, 'emberstone: '.$before.str_replace("\n", ' ', $problem->getMessage())."\n");

        return $status;
    }

    /** @param  resource  $stream */
    private function usage($stream): int
    {
        fwrite($stream, self::USAGE);

        return 0;
    }

    /** @param  array<mixed>  $data */
    private function answer(array $data): int
    {
        echo json_encode($data, JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR), "\n";

        return 0;
    }

    /** @param  list<string>  $words */
    private function inspect(array $words): int
    {
        $arguments = Arguments::parse($words, ['quiet' => false]);
        [$file] = $this->operands($arguments, 1, 'inspect FILE');
        $loaded = Formats::read($file);
        $report = Report::of($loaded->geometry, $loaded->unit);
        unset($report['evidence']);

        return $this->answer(['file' => $file, 'format' => $loaded->format, ...$report]);
    }

    /** @param  list<string>  $words */
    private function runRecipe(array $words): int
    {
        $arguments = Arguments::parse($words, ['out' => true, 'format' => true, 'workers' => true, 'memory' => true, 'resume' => true, 'quiet' => false]);
        Cores::limit($arguments->wholeNumber('workers', 1, 256) ?? 0);
        Memory::limit($arguments->wholeNumber('memory', Memory::LEAST_MB, 10_000_000) ?? 0);
        Scratch::sweep();
        $progress = new TerminalProgress(isset($arguments->options['quiet']));
        try {
            $report = $arguments->value('resume') === null ? $this->runFromStart($arguments, $progress) : $this->resume($arguments, $progress);
        } finally {
            $progress->clear();
        }
        if (! isset($arguments->options['quiet'])) {
            foreach ($report['steps'] as $step) {
                fprintf(STDERR, "%-16s %6.1f s %s\n", $step['op'], $step['seconds'], implode(' ', $step['notes']));
            }
        }

        return $this->answer($report);
    }

    /** @return array<string, mixed> the report */
    private function runFromStart(Arguments $arguments, TerminalProgress $progress): array
    {
        if (count($arguments->operands) < 2) {
            throw new UsageError('a recipe and one pass or more are needed: run RECIPE.json PASS... --out DIR');
        }
        $out = $arguments->value('out') ?? throw new UsageError('--out is missing: the folder for the results');
        $format = Formats::named($arguments->value('format') ?? 'ply')->name();
        $recipe = $this->recipe($arguments->operands[0]);
        $this->folder($out);

        return (new Run($recipe))(array_slice($arguments->operands, 1), $out, $format, $progress);
    }

    /** @return array<string, mixed> the report */
    private function resume(Arguments $arguments, TerminalProgress $progress): array
    {
        $folder = (string) $arguments->value('resume');
        if (count($arguments->operands) > 1 || isset($arguments->options['out']) || isset($arguments->options['format'])) {
            throw new UsageError('a run that goes on has its passes, its folder and its format: run [RECIPE.json] --resume DIR');
        }
        $state = RunState::read($folder);
        $recipe = $arguments->operands === [] ? Recipe::fromJson($state->recipe) : $this->recipe($arguments->operands[0]);
        $this->folder($folder);

        return (new Run($recipe))->resume($state, $folder, $progress);
    }

    private function recipe(string $file): Recipe
    {
        if (! is_file($file)) {
            throw UnreadableFile::at($file, '', 'there is no such file');
        }

        return Recipe::fromJson((string) file_get_contents($file));
    }

    /** @param  list<string>  $words */
    private function convert(array $words): int
    {
        $arguments = Arguments::parse($words, ['ascii' => false, 'unit' => true, 'weld' => true, 'quiet' => false]);
        [$in, $out] = $this->operands($arguments, 2, 'convert IN OUT');
        Formats::named(pathinfo($out, PATHINFO_EXTENSION));
        $loaded = Formats::read($in);
        $geometry = $loaded->geometry;
        $unit = $arguments->value('unit');
        $target = $unit === null ? $loaded->unit : (Unit::tryFrom($unit) ?? throw new UsageError("--unit is \"$unit\"; it must be one of ".implode(', ', array_column(Unit::cases(), 'value'))));
        if ($unit !== null && $target !== null) {
            // A file that does not say counts as millimetres.
            $geometry = $geometry->scaled(($loaded->unit ?? Unit::Millimetre)->inMillimetres() / $target->inMillimetres());
        }
        $weld = $arguments->value('weld');
        if ($weld !== null) {
            if (! is_numeric($weld) || (float) $weld < 0.0) {
                throw new UsageError("--weld is \"$weld\"; it must be a length of 0 or more");
            }
            if (! $geometry instanceof TriangleMesh) {
                throw new UsageError('--weld joins the vertices of a mesh; this is a cloud');
            }
            $geometry = Weld::mesh($geometry, (float) $weld);
        }
        Formats::write($out, $geometry, new WriteOptions(isset($arguments->options['ascii']), $target ?? Unit::Millimetre));

        return 0;
    }

    /** @param  list<string>  $words */
    private function blobs(array $words): int
    {
        $arguments = Arguments::parse($words, ['out' => true, 'memory' => true, 'columns' => true, 'quiet' => false]);
        [$file] = $this->operands($arguments, 1, 'blobs FILE --out DIR');
        $out = $arguments->value('out') ?? throw new UsageError('--out is missing: the folder for the blobs');
        $memory = $arguments->wholeNumber('memory', 64, 1_000_000);
        if ($memory !== null) {
            ini_set('memory_limit', "{$memory}M");
        }
        $this->folder($out);
        $columns = $arguments->value('columns');
        $columns = $columns === null ? null : TextColumns::of(explode(',', $columns));
        $streamed = Formats::intoBlob($file, "$out/0.blob", $columns);
        if ($streamed !== null) {
            return $this->answer([$streamed->toArray('0.blob')]);
        }
        $things = [];
        foreach (Formats::each($file, $columns) as $k => $loaded) {
            file_put_contents("$out/$k.blob", Blob::encode($loaded->geometry));
            $things[] = ReadThing::described($loaded, "$k.blob");
        }

        return $this->answer($things);
    }

    /** @param  list<string>  $words */
    private function compare(array $words): int
    {
        $arguments = Arguments::parse($words, ['samples' => true, 'quiet' => false]);
        [$a, $b] = $this->operands($arguments, 2, 'compare A B');
        $samples = $arguments->wholeNumber('samples', 1, 50_000_000);
        [$one, $other] = [Formats::read($a), Formats::read($b)];
        $first = $one->geometry;
        // In the unit of the first; a file that does not say counts as millimetres.
        $second = $other->geometry->scaled(($other->unit ?? Unit::Millimetre)->inMillimetres() / ($one->unit ?? Unit::Millimetre)->inMillimetres());
        if (! $second instanceof TriangleMesh) {
            throw UnreadableFile::at($b, '', 'the second file must be a mesh: distances are taken to its surface');
        }

        return $this->answer(SurfaceDistance::compare($first, $second, $samples));
    }

    /** @param  list<string>  $words */
    private function simulate(array $words): int
    {
        $arguments = Arguments::parse($words, ['rig' => true, 'out' => true, 'seed' => true, 'density' => true, 'list' => false, 'quiet' => false]);
        if (isset($arguments->options['list'])) {
            return $this->answer(['parts' => Rigs::parts(), 'rigs' => Rigs::rigs()]);
        }
        [$name] = $this->operands($arguments, 1, 'simulate PART --rig RIG --out DIR');
        $part = Rigs::part($name);
        $density = $arguments->value('density');
        if ($density !== null && (! is_numeric($density) || (float) $density <= 0.0 || ! is_finite((float) $density))) {
            throw new UsageError("--density is \"$density\"; it must be a number of points a mm2, more than 0");
        }
        $rig = Rigs::rig($arguments->value('rig') ?? throw new UsageError('--rig is missing: '.implode(', ', array_keys(Rigs::rigs()))), pixels: $density === null ? null : Rigs::pixels($part, (float) $density));
        $out = $arguments->value('out') ?? throw new UsageError('--out is missing: the folder for the passes');
        $seed = $arguments->wholeNumber('seed', 0, 1_000_000_000) ?? 1;
        $this->folder($out);
        $progress = new TerminalProgress(isset($arguments->options['quiet']));
        $tasks = [];
        for ($k = 0; $k < $rig->passes(); $k++) {
            $tasks[] = function () use ($rig, $part, $k, $seed, $out): string {
                $capture = $rig->capture($part, $k, $seed);
                Formats::write(sprintf('%s/pass-%02d.ply', $out, $k + 1), $capture['cloud']);

                return Packed::doubles($capture['pose']->matrix);
            };
        }
        $passes = [];
        foreach (Fork::map($tasks, Cores::count(), $progress, 'capturing') as $k => $pose) {
            $passes[] = ['name' => sprintf('pass-%02d', $k + 1), 'pose' => Packed::toDoubles($pose)];
        }
        $truth = ExactSurface::of($part, Rigs::voxel($part));
        Formats::write("$out/truth.ply", $truth);
        $progress->clear();
        $report = [
            'part' => $name, 'rig' => $arguments->value('rig'), 'seed' => $seed, 'unit' => 'mm', 'noise' => $rig->noiseMm(),
            'volume' => Measure::volume($truth->positions, $truth->faces), 'features' => $part->features(), 'passes' => $passes,
        ];
        file_put_contents("$out/truth.json", json_encode($report, JSON_PRETTY_PRINT | JSON_THROW_ON_ERROR)."\n");

        return $this->answer($report);
    }

    /** @return list<string> */
    private function operands(Arguments $arguments, int $count, string $usage): array
    {
        if (count($arguments->operands) !== $count) {
            throw new UsageError("the call is: $usage");
        }

        return $arguments->operands;
    }

    private function folder(string $path): void
    {
        if (! is_dir($path) && ! @mkdir($path, 0777, true)) {
            throw new UsageError("$path cannot be made; choose another folder");
        }
        if (! is_writable($path)) {
            throw new UsageError("$path cannot be written to; choose another folder");
        }
    }
}
