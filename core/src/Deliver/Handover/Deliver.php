<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Handover;

use Emberstone\Core\Algorithms\Surface\Measure;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Deliver\Delivery;
use Emberstone\Core\Deliver\Figures;
use Emberstone\Core\Deliver\SectionDrawing;
use Emberstone\Core\Deliver\StepModel;
use Emberstone\Core\Exchange\Dxf;
use Emberstone\Core\Exchange\Svg;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\Names;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\Look;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes what is handed over: bodies as files in the unit and with the axis up that the brief asks for, the drawings of their sections, and what a report says of them, with pictures.
 *
 * Output    an artefact (see HandedOver) that keeps all of it as it was: what changes later changes nothing there.
 * Error     files are written as Formats::write does; sums are of their bytes.
 *
 * @implements Operation<DeliverParameters>
 */
final class Deliver implements Operation
{
    /** Pixels of the first picture, and of the others: on paper 180 and 145 an inch. */
    private const LARGE = [640, 480];

    private const SMALL = [320, 240];

    /** Views of a part: the way it is looked, and what is up. */
    private const VIEWS = [
        'From the front, above' => [[-0.6, 0.7, -0.55], [0.0, 0.0, 1.0]],
        'From behind, below' => [[0.6, -0.7, 0.55], [0.0, 0.0, 1.0]],
        'From the front' => [[0.0, 1.0, 0.0], [0.0, 0.0, 1.0]],
        'From above' => [[0.0, 0.0, -1.0], [0.0, 1.0, 0.0]],
    ];

    public static function about(): About
    {
        return new About('deliver', Stage::Deliver, 'Hand over', 'Makes files, drawings and a report, kept as they are now.', 'bodies', DeliverParameters::class, readsArtefacts: true, avoid: 'Not with red lines on the ready card, unless the receiver knows of them.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(4.0 + 2.5e-5 * $workpiece->faceCount(), 180 + 1.5e-3 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $bodies = self::chosen($workpiece, $parameters);
        if ($bodies === []) {
            throw UnsuitableInput::because('There is no body to hand over: fuse the passes first, or bring in a mesh.');
        }
        // A look of nobody is a name that was written wrong.
        array_map(fn (int|string $name) => $workpiece->named('looks', (string) $name), array_keys($parameters->looks ?? []));
        $brief = $parameters->brief();
        $files = $parts = $taken = $notes = [];
        $folder = sys_get_temp_dir().'/emberstone-deliver-'.bin2hex(random_bytes(8));
        mkdir($folder, 0700);
        try {
            foreach ($bodies as $k => $body) {
                $part = new PartProgress($progress, $k / count($bodies), ($k + 1) / count($bodies));
                $placed = $body->placed();
                $look = $parameters->lookOf($body->id, $body->name);
                foreach ($placed instanceof TriangleMesh ? $parameters->formats : ['ply'] as $format) {
                    $name = $parameters->nameOf($body->id, $body->name);
                    if ($format === 'step' && $placed instanceof TriangleMesh) {
                        $model = StepModel::of($name, $body, $placed, $workpiece->artefacts, $workpiece->datums, $brief);
                        array_push($notes, ...$model->notes);
                        $files[] = self::file(self::name($name, $format, $taken), $model->bytes);

                        continue;
                    }
                    $path = "$folder/file.$format";
                    Delivery::write($path, $placed, $brief, look: $look);
                    $files[] = self::file(self::name($name, $format, $taken), (string) file_get_contents($path));
                    unlink($path);
                }
                $part->advance('writing files', 0.2);
                $parts[] = self::described($body, $parameters->nameOf($body->id, $body->name), $look, $placed, $workpiece, $brief->toleranceMm, $part);
            }
        } finally {
            array_map(unlink(...), glob("$folder/*") ?: []);
            rmdir($folder);
        }
        [$drawings, $curves] = self::drawings($workpiece, $bodies, $parameters, $taken);
        $data = ['for' => $parameters->for, 'package' => $parameters->package, 'title' => $parameters->brief['title'] ?? null, 'scale' => $parameters->brief['scale'] ?? null, 'brief' => $brief->toArray(), 'parts' => $parts, 'curves' => $curves, 'files' => [...$files, ...$drawings]];
        $bytes = array_sum(array_column($data['files'], 'size'));
        $name = $parameters->for === '' ? 'Delivery' : "Delivery for $parameters->for";

        return new Result(
            $workpiece->withArtefacts([...$workpiece->artefacts, new Artefact($name, $name, HandedOver::KIND, $data, Placement::of(1.0, RigidTransform::identity()))]),
            sprintf('%s, %s MB%s', Format::many(count($data['files']), 'file'), Format::plain(max(0.1, $bytes / 1e6), 1), $parameters->for === '' ? '' : " for $parameters->for"),
            [], ['files' => count($data['files']), 'bytes' => $bytes], $notes,
        );
    }

    /** @return list<Body> */
    private static function chosen(Workpiece $workpiece, DeliverParameters $parameters): array
    {
        $named = $parameters->bodies ?? $parameters->on;
        if ($named === null) {
            return $workpiece->bodies;
        }
        $chosen = [];
        foreach ($named as $name) {
            foreach ($workpiece->called($name) as $one) {
                if (! $one instanceof Body) {
                    throw InvalidParameter::of($parameters->bodies === null ? 'on' : 'bodies', "names \"$one->name\", which is a pass; name bodies");
                }
                $chosen[$one->id] = $one;
            }
        }

        return array_values($chosen);
    }

    /** @param  array<string, true>  $taken  (changed) */
    private static function name(string $name, string $format, array &$taken): string
    {
        $own = Names::forFile($name);
        for ($k = 2; isset($taken[strtolower("$own.$format")]); $k++) {
            $own = Names::forFile($name)."-$k";
        }
        $taken[strtolower("$own.$format")] = true;

        return "$own.$format";
    }

    /** @return array{name: string, size: int, sha256: string, bytes: string} */
    private static function file(string $name, string $bytes): array
    {
        return ['name' => $name, 'size' => strlen($bytes), 'sha256' => hash('sha256', $bytes), 'bytes' => base64_encode($bytes)];
    }

    /** @return array<string, mixed> a part of HandedOver */
    private static function described(Body $body, string $name, Look $look, TriangleMesh|PointCloud $placed, Workpiece $workpiece, float $toleranceMm, Progress $progress): array
    {
        $box = BoundingBox::of($placed->positions);
        $part = ['name' => $name, 'body' => $body->id, 'material' => $look->material, 'size' => Vector3::minus($box->max, $box->min), 'points' => intdiv(count($placed->positions), 3), 'faces' => null, 'figures' => null, 'pictures' => []];
        if (! $placed instanceof TriangleMesh || $placed->faces === []) {
            return $part;
        }
        $figures = Figures::of($placed, $workpiece->passes, $body->openPlaces(), new PartProgress($progress, 0.2, 0.6));
        foreach (array_keys(self::VIEWS) as $k => $title) {
            [$along, $up] = self::VIEWS[$title];
            [$columns, $rows] = $k === 0 ? self::LARGE : self::SMALL;
            $part['pictures'][] = ['title' => $title, 'png' => base64_encode(PartPicture::of($placed, Vector3::unit($along), $up, $columns, $rows, look: $look))];
            $progress->advance('drawing pictures', 0.6 + 0.1 * ($k + 1));
        }
        [$along, $up] = self::VIEWS['From the front, above'];
        $part['deviation'] = RawDeviation::picture($placed, $workpiece->passes, $toleranceMm, Vector3::unit($along), $up, ...self::LARGE);
        // The outlines of holes are for the window.
        unset($figures['holes']);

        return ['faces' => $placed->faceCount(), 'figures' => $figures, 'volume' => $figures['closed'] ? Measure::volume($placed->positions, $placed->faces) : null] + $part;
    }

    /**
     * @param  list<Body>  $bodies
     * @param  array<string, true>  $taken  (changed)
     * @return array{list<array{name: string, size: int, sha256: string, bytes: string}>, list<array<string, mixed>>} drawings of the sections and outlines of these bodies, and what their curves measure
     */
    private static function drawings(Workpiece $workpiece, array $bodies, DeliverParameters $parameters, array &$taken): array
    {
        $unit = $parameters->brief()->unit;
        $files = $curves = [];
        $ids = array_map(fn (Body $body) => $body->id, $bodies);
        foreach ($workpiece->artefacts as $artefact) {
            if ($artefact->kind === SectionDrawing::KIND && in_array($artefact->bodyId, $ids, true)) {
                $drawing = SectionDrawing::of($artefact, $unit);
                $name = $parameters->nameOf($artefact->id, $artefact->name);
                $files[] = self::file(self::name($name, 'dxf', $taken), Dxf::of($drawing));
                $files[] = self::file(self::name($name, 'svg', $taken), Svg::of($drawing));
                $figures = SectionDrawing::figures($artefact);
                $curves[] = ['name' => $name, 'curves' => count($figures), 'length' => array_sum(array_column($figures, 'length')), 'area' => array_sum(array_column($figures, 'area')), 'svg' => Svg::of($drawing)];
            }
        }

        return [$files, $curves];
    }
}
