<?php

declare(strict_types=1);

namespace Emberstone\Core\Recipe;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Datum;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\PoseError;
use Emberstone\Core\Operation\Workpiece;

/**
 * What a run had done when a step failed or was stopped, to the last bit, kept in a folder beside its report: so that the run can go on from there.
 *
 * `state.json` holds all but the numbers of geometry; those stand in files of doubles and whole numbers, little-endian, one for each array.
 */
final readonly class RunState
{
    private const FOLDER = 'unfinished';

    /** Raised when what is written here changes. */
    private const VERSION = 3;

    /**
     * @param  string  $recipe  its text
     * @param  list<array<string, mixed>>  $steps  reports of those that are done
     * @param  array<string, list<string>>  $tags  ids by tag
     * @param  Placement  $frame  see Run
     * @param  array<int|string, list<Body>>  $earlier  the bodies as earlier steps left them, by the number or tag of the step, see LooksBack; those that later steps ask for
     * @param  float|null  $scaleError  see Workpiece
     */
    public function __construct(public string $recipe, public string $format, public array $steps, public Workpiece $workpiece, public array $tags, public Placement $frame, public array $earlier = [], public ?float $scaleError = null)
    {
    }

    /** Takes the place of what was kept there before. */
    public function write(string $folder): void
    {
        self::remove($folder);
        $home = "$folder/".self::FOLDER;
        mkdir($home);
        $rows = ['passes' => [], 'bodies' => [], 'earlier' => []];
        $earlier = array_merge(...array_values($this->earlier));
        foreach (['passes' => $this->workpiece->passes, 'bodies' => $this->workpiece->bodies, 'earlier' => $earlier] as $kind => $things) {
            foreach ($things as $k => $one) {
                $file = "$home/$kind-$k";
                $geometry = $one instanceof Pass ? $one->cloud() : $one->geometry;
                $row = ['id' => $one->id, 'name' => $one->name, 'scale' => $one->scale, 'transform' => $one->transform->matrix] + self::writeGeometry($file, $geometry);
                if ($one instanceof Pass) {
                    $one->mask === null || self::put("$file.mask", $one->mask);
                    $row += ['residual' => $one->residual, 'overlap' => $one->overlap, 'poseError' => $one->poseError?->toArray(), 'isMasked' => $one->mask !== null];
                } else {
                    $row['leftOpen'] = $one->leftOpen;
                }
                $rows[$kind][] = $row;
            }
        }
        $state = [
            'version' => self::VERSION, 'recipe' => $this->recipe, 'format' => $this->format, 'steps' => $this->steps, 'tags' => (object) $this->tags,
            'frame' => ['scale' => $this->frame->scale, 'pose' => $this->frame->pose->matrix], ...$rows, 'scaleError' => $this->scaleError, 'counts' => (object) array_map(count(...), $this->earlier), 'datums' => array_map(fn (Datum $datum) => $datum->toArray(), $this->workpiece->datums),
            'artefacts' => array_map(fn (Artefact $one) => ['id' => $one->id, 'name' => $one->name, 'kind' => $one->kind, 'data' => $one->data, 'scale' => $one->placement->scale, 'pose' => $one->placement->pose->matrix, 'bodyId' => $one->bodyId, 'version' => $one->version], $this->workpiece->artefacts),
        ];
        // Written last: a state without it was not written to its end.
        self::put("$home/state.json", json_encode($state, JSON_PRESERVE_ZERO_FRACTION | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR));
    }

    /** @throws UnreadableFile when no run was left unfinished there, or its files are not as they were written */
    public static function read(string $folder): self
    {
        $home = "$folder/".self::FOLDER;
        $text = @file_get_contents("$home/state.json");
        if ($text === false) {
            throw UnreadableFile::at($folder, '', 'no run was left unfinished here: there is nothing to go on from');
        }
        try {
            $state = json_decode($text, true, 512, JSON_THROW_ON_ERROR);
            if (! is_array($state) || ($state['version'] ?? null) !== self::VERSION) {
                throw UnreadableFile::at("$home/state.json", '', 'was written by another version; run the recipe from its beginning');
            }
            $passes = self::each($state['passes'], fn (array $row, int $k) => self::pass("$home/passes-$k", $row));
            $bodies = self::each($state['bodies'], fn (array $row, int $k) => self::body("$home/bodies-$k", $row));
            $were = self::each($state['earlier'], fn (array $row, int $k) => self::body("$home/earlier-$k", $row));
            $earlier = array_map(function (int $count) use (&$were): array {
                return array_splice($were, 0, $count);
            }, $state['counts']);
            $artefacts = array_map(fn (array $row) => new Artefact($row['id'], $row['name'], $row['kind'], $row['data'], Placement::of($row['scale'], RigidTransform::fromMatrix($row['pose'])), $row['bodyId'], $row['version']), $state['artefacts']);
            $workpiece = new Workpiece($passes, $bodies, array_map(Datum::fromArray(...), $state['datums']), $artefacts);

            // Figures that are none are written as {} again, not as [].
            $steps = array_map(fn (array $step) => array_merge($step, ['before' => (object) $step['before'], 'after' => (object) $step['after']]), $state['steps']);

            return new self($state['recipe'], $state['format'], $steps, $workpiece, $state['tags'], Placement::of($state['frame']['scale'], RigidTransform::fromMatrix($state['frame']['pose'])), $earlier, $state['scaleError']);
        } catch (UnreadableFile $problem) {
            throw $problem;
        } catch (\JsonException|\TypeError|\AssertionError|\ErrorException|EmberstoneException $problem) {
            throw UnreadableFile::at("$home/state.json", '', 'is damaged ('.$problem->getMessage().'); run the recipe from its beginning');
        }
    }

    /** Takes away what was kept: the run has come to its end. */
    public static function remove(string $folder): void
    {
        $home = "$folder/".self::FOLDER;
        array_map(unlink(...), glob("$home/*") ?: []);
        ! is_dir($home) || rmdir($home);
    }

    /** @param  array<string, mixed>  $row */
    private static function pass(string $file, array $row): Pass
    {
        $cloud = self::readGeometry($file, $row);
        assert($cloud instanceof PointCloud);

        return new Pass($row['id'], $row['name'], $cloud, RigidTransform::fromMatrix($row['transform']), $row['isMasked'] ? self::get("$file.mask", $cloud->count()) : null, $row['residual'], $row['overlap'], $row['scale'], PoseError::fromArray($row['poseError'] ?? null));
    }

    /** @param  array<string, mixed>  $row */
    private static function body(string $file, array $row): Body
    {
        return new Body($row['id'], $row['name'], self::readGeometry($file, $row), RigidTransform::fromMatrix($row['transform']), $row['leftOpen'], $row['scale']);
    }

    /** @return array<string, mixed> what reading it takes besides its files */
    private static function writeGeometry(string $file, TriangleMesh|PointCloud $geometry): array
    {
        $arrays = $geometry instanceof TriangleMesh
            ? ['positions' => Packed::doubles($geometry->positions), 'faces' => Packed::longs($geometry->faces), 'support' => Packed::longs($geometry->support), 'origin' => Packed::longs($geometry->origin)]
            : $geometry->packed();
        $raster = $arrays['raster'] ?? null;
        $row = $geometry instanceof TriangleMesh ? ['kind' => 'mesh'] : ['kind' => 'cloud', 'sensor' => $geometry->sensorOrigin, 'raster' => $raster === null ? null : [$raster[0], $raster[1]]];
        unset($arrays['sensor'], $arrays['raster']);
        $arrays += $raster === null ? [] : ['cells' => $raster[2]];
        foreach ($arrays as $name => $bytes) {
            self::put("$file.$name", $bytes);
        }

        return $row + ['lengths' => array_map(strlen(...), $arrays)];
    }

    /**
     * @template T
     *
     * @param  list<array<string, mixed>>  $rows
     * @param  callable(array<string, mixed>, int): T  $make
     * @return list<T>
     */
    private static function each(array $rows, callable $make): array
    {
        return array_map($make, $rows, array_keys($rows));
    }

    /** @param  array<string, mixed>  $row */
    private static function readGeometry(string $file, array $row): TriangleMesh|PointCloud
    {
        $read = [];
        foreach ($row['lengths'] as $name => $length) {
            $read[$name] = self::get("$file.$name", $length);
        }
        if ($row['kind'] === 'mesh') {
            return TriangleMesh::fromFlat(Packed::toDoubles($read['positions']), Packed::toLongs($read['faces']), Packed::toLongs($read['support']), Packed::toLongs($read['origin']));
        }

        /** @var array{positions: string, normals: string, colours: string, confidence: string, sensor: array{float, float, float}|null, raster: array{int, int, string}|null} $packed */
        $packed = ['sensor' => $row['sensor'], 'raster' => $row['raster'] === null ? null : [...$row['raster'], $read['cells']]] + $read;

        return PointCloud::unpacked($packed);
    }

    private static function put(string $path, string $bytes): void
    {
        if (@file_put_contents($path, $bytes) !== strlen($bytes)) {
            throw UnreadableFile::at($path, '', 'cannot be written: is the disk full?');
        }
    }

    private static function get(string $path, int $length): string
    {
        $bytes = @file_get_contents($path);

        return is_string($bytes) && strlen($bytes) === $length ? $bytes : throw UnreadableFile::at($path, '', "is gone or not $length bytes long; run the recipe from its beginning");
    }
}
