<?php

declare(strict_types=1);

namespace Emberstone\Core\Recipe;

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Cloud\CloudSource;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Deliver\HeightPictures;
use Emberstone\Core\Deliver\SectionDrawing;
use Emberstone\Core\Exchange\Dxf;
use Emberstone\Core\Exchange\Formats;
use Emberstone\Core\Exchange\Svg;
use Emberstone\Core\Exchange\WriteOptions;
use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Names;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\Scratch;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;

/** Carries out a recipe on files and writes bodies, report, and the fixture where one was solved. */
final class Run
{
    /** Points from which on passes wait on disk for those who ask for them: some 200 MB of coordinates. */
    private const IN_MEMORY = 4_000_000;

    /** Bytes of files whose reading takes a second or two: a process more for each is worth it. */
    private const LARGE_FILES = 48_000_000;

    /** @param  int  $largeFiles  bytes of all files from which on they are read side by side */
    public function __construct(private readonly Recipe $recipe, private readonly int $largeFiles = self::LARGE_FILES)
    {
    }

    /**
     * @param  list<string>  $files
     * @return array<string, mixed> the report, as written to report.json
     */
    public function __invoke(array $files, string $folder, string $format, Progress $progress): array
    {
        $workpiece = $this->load($files, new PartProgress($progress, 0.0, 0.1));
        $this->checkNames($workpiece);

        return $this->carryOut(new RunState($this->recipe->text, $format, [], $workpiece, [], Placement::of(1.0, RigidTransform::identity())), $folder, $progress);
    }

    /**
     * Goes on where a run stopped: at the step that failed, as this recipe has it. The steps before that must be those that were carried out.
     *
     * @return array<string, mixed> the report, as written to report.json
     *
     * @throws InvalidParameter where this recipe is another one
     */
    public function resume(RunState $state, string $folder, Progress $progress): array
    {
        $earlier = Recipe::fromJson($state->recipe);
        foreach (array_keys($state->steps) as $k) {
            if ($earlier->unit !== $this->recipe->unit || ! isset($this->recipe->steps[$k]) || serialize($earlier->steps[$k]) !== serialize($this->recipe->steps[$k])) {
                throw InvalidParameter::of('recipe', 'differs from the one that was run before step '.(count($state->steps) + 1).', at step '.($k + 1).'; run it from its beginning');
            }
        }

        return $this->carryOut($state, $folder, $progress);
    }

    /** @return array<string, mixed> the report */
    private function carryOut(RunState $state, string $folder, Progress $progress): array
    {
        $started = hrtime(true);
        [$workpiece, $steps, $tags, $frame, $format] = [$state->workpiece, $state->steps, $state->tags, $state->frame, $state->format];
        $count = count($this->recipe->steps);
        $scaleError = $state->scaleError;
        $askedFor = array_filter(array_map(fn (Step $step) => $step->looksBackAt(), $this->recipe->steps), is_string(...));
        $earlier = $state->earlier + (in_array('0', $askedFor, true) ? ['0' => $workpiece->bodies] : []);
        for ($k = count($steps); $k < $count; $k++) {
            $step = $this->recipe->steps[$k];
            $began = hrtime(true);
            memory_reset_peak_usage();
            try {
                $result = $step($workpiece->remembering($earlier[$step->looksBackAt() ?? ''] ?? [], $scaleError), new PartProgress($progress, 0.1 + 0.85 * $k / $count, 0.1 + 0.85 * ($k + 1) / $count), $tags);
            } catch (EmberstoneException $problem) {
                // What was done before it is not lost.
                $this->report($started, $workpiece, $steps, $frame, $folder, $format, ['step' => $k + 1, 'op' => $step->op, 'message' => $problem->getMessage()]);
                (new RunState($this->recipe->text, $format, $steps, $workpiece, $tags, $frame, $earlier, $scaleError))->write($folder);
                throw UnsuitableInput::because('step '.($k + 1)." ($step->op): ".$problem->getMessage());
            }
            if ($step->tag !== null) {
                $tags[$step->tag] = self::touched($step, $workpiece, $result->workpiece, $tags);
            }
            $workpiece = $result->workpiece;
            $scaleError = $result->scaleErrorAfter($scaleError);
            // Together they lead from where everything was read to the frame.
            $frame = $result->everything === null ? $frame : $frame->then($result->everything);
            $earlier = $result->everything === null ? $earlier : array_map(fn (array $bodies) => array_map(fn (Body $body) => $body->along($result->everything), $bodies), $earlier);
            foreach (array_intersect([(string) ($k + 1), $step->tag ?? ''], $askedFor) as $name) {
                $earlier[$name] = $workpiece->bodies;
            }
            if (isset($result->after['fixture'])) {
                $this->put("$folder/fixture.json", json_encode($result->after['fixture'], JSON_PRETTY_PRINT | JSON_PRESERVE_ZERO_FRACTION | JSON_THROW_ON_ERROR)."\n");
            }
            $steps[] = [
                'op' => $step->op, ...($step->on === null ? [] : ['on' => $step->on]), 'seconds' => round((hrtime(true) - $began) / 1e9, 3), 'peakMemoryMb' => (int) ceil(memory_get_peak_usage() / 1e6),
                'summary' => $result->headline, 'before' => (object) $result->before, 'after' => (object) $result->after, 'notes' => $result->notes,
            ];
        }
        RunState::remove($folder);

        return $this->report($started, $workpiece, $steps, $frame, $folder, $format);
    }

    /**
     * Writes the bodies and report.json.
     *
     * @param  list<array<string, mixed>>  $steps
     * @param  array{step: int, op: string, message: string}|null  $failed  the step that was not carried out
     * @return array<string, mixed>
     */
    private function report(int|float $started, Workpiece $workpiece, array $steps, Placement $frame, string $folder, string $format, ?array $failed = null): array
    {
        $bodies = $this->write($workpiece, $folder, $format);
        $curves = $this->writeDrawings($workpiece, $folder);
        $heights = $this->writeHeights($workpiece, $folder);
        $deliveries = Deliveries::write($workpiece, $steps, $frame, $this->recipe->text, fn (string $name, string $bytes) => $this->put("$folder/$name", $bytes));
        $comparisons = array_merge(...array_map(fn (array $step) => $this->comparisons((array) $step['after']), $steps));
        $measurements = array_merge(...array_map(fn (array $step) => $this->measurements((array) $step['after']), $steps));
        $mm = $this->recipe->unit->inMillimetres();
        $names = array_column($workpiece->bodies, 'name', 'id');
        $found = array_filter($workpiece->artefacts, fn (Artefact $one) => $one->kind === ShapeMap::KIND);
        $shapes = array_merge(...array_map(fn (Artefact $one) => ShapeMap::ofArtefact($one)->report($names[$one->bodyId] ?? $one->name, $mm), array_values($found)));
        $report = [
            'recipe' => 1, 'unit' => $this->recipe->unit->value,
            'seconds' => round((hrtime(true) - $started) / 1e9, 3),
            'peakMemoryMb' => max([(int) ceil(memory_get_peak_usage() / 1e6), ...array_column($steps, 'peakMemoryMb')]),
            'passes' => array_map(fn (Pass $pass) => ['name' => $pass->name, 'points' => $pass->keptCount(), 'transform' => $this->inRecipeUnit($pass->placement()), 'residual' => $pass->residual === null ? null : $pass->residual / $mm, 'overlap' => $pass->overlap], $workpiece->passes),
            ...($comparisons === [] ? [] : ['comparisons' => $comparisons]), ...($measurements === [] ? [] : ['measurements' => $measurements]),
            'datums' => array_map(fn (Datum $datum) => $datum->scaled(1.0 / $mm)->report(), $workpiece->datums),
            'frame' => $this->inRecipeUnit($frame, $mm),
            ...($shapes === [] ? [] : ['shapes' => $shapes]), ...($heights === [] ? [] : ['heights' => $heights]),
            'steps' => $steps, 'bodies' => $bodies, ...($curves === [] ? [] : ['curves' => $curves]), ...($deliveries === [] ? [] : ['deliveries' => $deliveries]), ...($failed === null ? [] : ['failed' => $failed]),
        ];
        $this->put("$folder/report.json", json_encode($report, JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR)."\n");

        return $report;
    }

    /**
     * What a step has compared, in the recipe's unit.
     *
     * @param  array<string, mixed>  $after
     * @return list<array<string, mixed>>
     */
    private function comparisons(array $after): array
    {
        $mm = $this->recipe->unit->inMillimetres();

        return array_map(fn (array $one) => [
            ...$one, 'tolerance' => $one['tolerance'] === null ? null : $one['tolerance'] / $mm, 'rms' => $one['rms'] / $mm, 'mean' => $one['mean'] / $mm, 'p95' => $one['p95'] / $mm, 'max' => $one['max'] / $mm,
            'places' => array_map(fn (array $place) => ['point' => Vector3::scaled($place['point'], 1.0 / $mm), 'distance' => $place['distance'] / $mm], $one['places']),
            'histogram' => ['from' => $one['histogram']['from'] / $mm, 'to' => $one['histogram']['to'] / $mm] + $one['histogram'],
        ], $after['comparisons'] ?? []);
    }

    /**
     * What a step has measured, in the recipe's unit.
     *
     * @param  array<string, mixed>  $after
     * @return list<array<string, mixed>>
     */
    private function measurements(array $after): array
    {
        $unit = $this->recipe->unit;
        $mm = $unit->inMillimetres();

        return array_map(function (array $one) use ($unit, $mm): array {
            [$power, $sign] = ['mm' => [1, ''], 'mm2' => [2, '2'], 'mm3' => [3, '3']][$one['unit']] ?? [0, ''];
            foreach (['value', 'uncertainty', 'nominal', 'plus', 'minus'] as $key) {
                $one[$key] = $one[$key] === null ? null : $one[$key] / $mm ** $power;
            }
            $one['more'] = (object) array_map(fn (float $value) => $value / $mm ** $power, (array) $one['more']);
            $one['place'] = $one['place'] === null ? null : Vector3::scaled($one['place'], 1.0 / $mm);
            $one['line'] = array_map(fn (array $end) => Vector3::scaled($end, 1.0 / $mm), $one['line']);

            // In words it stands in millimetres.
            unset($one['words']);

            return ['unit' => $power === 0 ? $one['unit'] : $unit->value.$sign] + $one;
        }, $after['measurements'] ?? []);
    }

    /**
     * Refuses a name that no pass or body has and that no step before can have made, before anything runs.
     *
     * @throws InvalidParameter
     */
    private function checkNames(Workpiece $workpiece): void
    {
        $this->checkLookingBack();
        $known = array_fill_keys(array_map(fn (Pass|Body $one) => $one->name, [...$workpiece->passes, ...$workpiece->bodies]), true);
        foreach ($this->recipe->steps as $k => $step) {
            $unknown = array_values(array_filter($step->on ?? [], fn (string $name) => ! isset($known[$name])));
            // Datums have names, too, which `discard` may take.
            if ($unknown !== [] && $step->op !== 'discard') {
                throw InvalidParameter::of('step '.($k + 1)." ($step->op): on", "names \"$unknown[0]\", but at that step there ".(count($known) === 1 ? 'is ' : 'are ').implode(', ', array_keys($known)));
            }
            $operation = Catalogue::operation($step->op);
            $made = $operation instanceof MakesNew ? $operation::makes($step->parameters, $step->on) : [];
            if ($made === null) {
                // What comes from here on has names that the data decide: each is looked for when its step comes.
                return;
            }
            foreach ($made as $name) {
                Names::distinct($name, $known);
            }
            if ($step->tag !== null) {
                $known[$step->tag] = true;
            }
        }
    }

    /**
     * Refuses a step that looks back at one that does not stand before it.
     *
     * @throws InvalidParameter
     */
    private function checkLookingBack(): void
    {
        $tags = [];
        foreach ($this->recipe->steps as $k => $step) {
            $at = $step->looksBackAt();
            if ($at !== null && ! in_array($at, [...array_map(strval(...), range(0, $k)), ...$tags], true)) {
                throw InvalidParameter::of('step '.($k + 1)." ($step->op): revision", "names \"$at\"; name a step before it: a number from 0 (as it was read) to $k".($tags === [] ? '' : ', or a tag: '.implode(', ', $tags)));
            }
            $tags = $step->tag === null ? $tags : [...$tags, $step->tag];
        }
    }

    /**
     * @param  array<string, list<string>>  $tags
     * @return list<string> ids of what a step made, and of what it worked on and is still there
     */
    private static function touched(Step $step, Workpiece $before, Workpiece $after, array $tags): array
    {
        $ids = fn (Workpiece $of): array => array_map(fn (Pass|Body $one) => $one->id, [...$of->passes, ...$of->bodies]);
        $new = array_diff($ids($after), $ids($before));
        if ($new !== []) {
            return array_values($new);
        }
        $worked = $step->on === null ? $ids($before) : $ids($step->part($before, $tags));

        return array_values(array_intersect($worked, $ids($after)));
    }

    /**
     * @param  float  $from  millimetres of a number that it maps; 1 where it maps the numbers of a file
     * @return list<float> 4x4, row-major, to numbers of the recipe's unit
     */
    private function inRecipeUnit(Placement $placement, float $from = 1.0): array
    {
        $mm = $this->recipe->unit->inMillimetres();

        return array_map(fn (float $v, int $k) => $k > 11 || $mm === 1.0 ? $v : ($k % 4 === 3 ? $v / $mm : $v * $from / $mm), $placement->matrix(), range(0, 15));
    }

    /** @param  list<string>  $files */
    private function load(array $files, Progress $progress): Workpiece
    {
        $passes = $bodies = [];
        $names = [];
        $points = 0;
        $apart = $this->readApart($files, new PartProgress($progress, 0.0, 0.8));
        foreach ($files as $k => $file) {
            // What was read apart has its points on disk; everything else is read here, and what cannot be read is told here.
            foreach ($apart[$k] ?? Formats::each($file) as $loaded) {
                $name = pathinfo($file, PATHINFO_FILENAME).($loaded->name === '' ? '' : ' '.$loaded->name);
                $name = Names::distinct($name, $names);
                // A file that does not say its unit is in that of the recipe.
                $scale = ($loaded->unit ?? $this->recipe->unit)->inMillimetres();
                $pose = $loaded->pose->withShiftTimes($scale);
                if ($loaded instanceof LoadedApart) {
                    $passes[] = new Pass($name, $name, $loaded->source, $pose, scale: $scale);
                } elseif ($loaded->geometry instanceof PointCloud) {
                    $points += $loaded->geometry->count();
                    $passes[] = new Pass($name, $name, $points > self::IN_MEMORY ? CloudSource::onDisk($loaded->geometry) : $loaded->geometry, $pose, scale: $scale);
                } else {
                    $bodies[] = new Body($name, $name, $loaded->geometry, $pose, scale: $scale);
                }
            }
            $progress->advance('reading', 0.8 + 0.2 * ($k + 1) / count($files));
        }

        return new Workpiece($passes, $bodies);
    }

    /**
     * Large files, read by several processes at a time.
     *
     * @param  list<string>  $files
     * @return array<int, list<LoadedApart>> by number of the file; not there are those that hold anything but clouds, or could not be read
     */
    private function readApart(array $files, Progress $progress): array
    {
        if (count($files) < 2 || array_sum(array_map(fn (string $file) => (int) @filesize($file), $files)) < $this->largeFiles) {
            return [];
        }
        $scratch = new Scratch;
        $tasks = array_map(fn (int $k) => function () use ($files, $k, $scratch): string {
            try {
                $things = Formats::each($files[$k]);
            } catch (EmberstoneException) {
                return '';
            }
            $rows = [];
            foreach ($things as $j => $loaded) {
                if (! $loaded->geometry instanceof PointCloud) {
                    return '';
                }
                CloudSource::put($scratch, "$k-$j", $loaded->geometry);
                $rows[] = ['name' => $loaded->name, 'unit' => $loaded->unit?->value, 'pose' => $loaded->pose->matrix, 'count' => $loaded->geometry->count(), 'hasSensor' => $loaded->geometry->sensorOrigin !== null, 'hasConfidence' => $loaded->geometry->confidence !== []];
            }

            return serialize($rows);
        }, array_keys($files));
        $apart = [];
        foreach (Fork::map($tasks, Cores::count(), $progress, 'reading') as $k => $bytes) {
            foreach ($bytes === '' ? [] : unserialize($bytes, ['allowed_classes' => false]) as $j => $row) {
                $apart[$k][] = new LoadedApart($row['name'], Unit::tryFrom((string) $row['unit']), RigidTransform::fromMatrix($row['pose']), CloudSource::inScratch($scratch, "$k-$j", $row['count'], $row['hasSensor'], $row['hasConfidence']));
            }
        }

        return $apart;
    }

    /**
     * The bodies; where there are none, each pass in its registered pose.
     *
     * @return list<array<string, mixed>>
     */
    private function write(Workpiece $workpiece, string $folder, string $format): array
    {
        $results = $workpiece->bodies !== []
            ? array_map(fn (Body $body) => [$body->name, $body->in($this->recipe->unit)], $workpiece->bodies)
            : array_map(fn (Pass $pass) => [$pass->name, $pass->in($this->recipe->unit)], $workpiece->passes);
        $bodies = $taken = [];
        foreach ($results as [$name, $geometry]) {
            $file = self::fileName($name, $format, $taken);
            Formats::write("$folder/$file", $geometry, new WriteOptions(unit: $this->recipe->unit));
            $bodies[] = ['name' => $name, 'file' => $file, 'format' => $format, ...Report::of($geometry), 'unit' => $this->recipe->unit->value];
        }

        return $bodies;
    }

    /**
     * The drawings of sections, as DXF and SVG.
     *
     * @return list<array<string, mixed>> what each curve measures, in the recipe's unit, and the file that it is in
     */
    private function writeDrawings(Workpiece $workpiece, string $folder): array
    {
        $mm = $this->recipe->unit->inMillimetres();
        $curves = $taken = [];
        foreach ($workpiece->artefacts as $artefact) {
            if ($artefact->kind !== SectionDrawing::KIND) {
                continue;
            }
            $drawing = SectionDrawing::of($artefact, $this->recipe->unit);
            $file = self::fileName($artefact->name, 'dxf', $taken);
            $this->put("$folder/$file", Dxf::of($drawing));
            $this->put("$folder/".substr($file, 0, -3).'svg', Svg::of($drawing));
            foreach (SectionDrawing::figures($artefact) as $curve) {
                $plane = ['point' => Vector3::scaled($curve['plane']['point'], 1.0 / $mm)] + $curve['plane'];
                $curves[] = ['plane' => $plane, 'length' => $curve['length'] / $mm, 'area' => $curve['area'] / $mm ** 2] + $curve + ['file' => $file];
            }
        }

        return $curves;
    }

    /**
     * Pictures of heights as PNG, and their pixels as points.
     *
     * @return list<array<string, mixed>> what each side is, in the recipe's unit, and the files that it is in
     */
    private function writeHeights(Workpiece $workpiece, string $folder): array
    {
        $unit = $this->recipe->unit;
        $heights = $taken = [];
        foreach ($workpiece->artefacts as $artefact) {
            if ($artefact->kind !== HeightPictures::KIND) {
                continue;
            }
            foreach (HeightPictures::report($artefact, $unit) as $side) {
                $file = self::fileName("$artefact->name, {$side['side']}", 'png', $taken);
                $points = substr($file, 0, -3).'xyz';
                $this->put("$folder/$file", HeightPictures::png($artefact, $side['side'], $unit));
                Formats::write("$folder/$points", HeightPictures::points($artefact, $side['side'])->scaled(1.0 / $unit->inMillimetres()));
                $heights[] = $side + ['file' => $file, 'points' => $points];
            }
        }

        return $heights;
    }

    /**
     * A file name that no other has, also where capitals do not count.
     *
     * @param  array<string, true>  $taken  (changed)
     */
    private static function fileName(string $name, string $format, array &$taken): string
    {
        $plain = trim(Names::forFile($name), '. ');
        $plain = $plain === '' ? 'body' : $plain;
        for ($k = 1, $file = $plain; isset($taken[mb_strtolower($file)]); $file = "$plain-".++$k);
        $taken[mb_strtolower($file)] = true;

        return "$file.$format";
    }

    private function put(string $path, string $text): void
    {
        if (@file_put_contents("$path.part", $text) !== strlen($text) || ! @rename("$path.part", $path)) {
            throw UnsuitableInput::because("$path cannot be written; check the folder, and that the disk has room.");
        }
    }
}
