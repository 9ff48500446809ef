<?php

declare(strict_types=1);

namespace Emberstone\Core\Recipe;

use Emberstone\Core\Deliver\Compare;
use Emberstone\Core\Deliver\Handover\Deliver;
use Emberstone\Core\Deliver\HeightMap;
use Emberstone\Core\Deliver\Join;
use Emberstone\Core\Deliver\Measuring\TakeMeasure;
use Emberstone\Core\Deliver\Outline;
use Emberstone\Core\Deliver\Section;
use Emberstone\Core\Deliver\Shaping\AddBody;
use Emberstone\Core\Deliver\Shaping\ClearanceCut;
use Emberstone\Core\Deliver\Shaping\Engrave;
use Emberstone\Core\Deliver\Shaping\KeepCommon;
use Emberstone\Core\Deliver\Shaping\OpenHole;
use Emberstone\Core\Deliver\Shaping\RepeatAround;
use Emberstone\Core\Deliver\Shaping\SimpleBody;
use Emberstone\Core\Deliver\Shaping\TakeAway;
use Emberstone\Core\Deliver\Shaping\Thicken;
use Emberstone\Core\Deliver\Split;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\Rebuild;
use Emberstone\Core\Fuse\ResolveDoubleSkin;
use Emberstone\Core\Gather\Copy;
use Emberstone\Core\Gather\Crop;
use Emberstone\Core\Gather\CutAway;
use Emberstone\Core\Gather\Discard;
use Emberstone\Core\Gather\DropBase;
use Emberstone\Core\Gather\KeepOnly;
use Emberstone\Core\Gather\NoiseReport;
use Emberstone\Core\Gather\RemoveGrazing;
use Emberstone\Core\Gather\RemoveOutliers;
use Emberstone\Core\Gather\RemoveStrays;
use Emberstone\Core\Gather\RemoveUnsure;
use Emberstone\Core\Gather\SetUnit;
use Emberstone\Core\Gather\Simulate;
use Emberstone\Core\Gather\Thin;
use Emberstone\Core\Lighten\Decimate;
use Emberstone\Core\Lighten\DrawQuads;
use Emberstone\Core\Lighten\Levels;
use Emberstone\Core\Lighten\QuadRemesh;
use Emberstone\Core\Lighten\Remesh;
use Emberstone\Core\Lighten\Shapes\FindShapes;
use Emberstone\Core\Lighten\Shapes\JoinShapes;
use Emberstone\Core\Lighten\Shapes\SplitShape;
use Emberstone\Core\Mend\Despike;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillPart;
use Emberstone\Core\Mend\Inspect;
use Emberstone\Core\Mend\KeepPieces;
use Emberstone\Core\Mend\LayStrip;
use Emberstone\Core\Mend\Repair;
use Emberstone\Core\Mend\ReshapePatch;
use Emberstone\Core\Mend\Smooth;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\ParamSpec;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Orient\AddDatum;
use Emberstone\Core\Orient\Centre;
use Emberstone\Core\Orient\ConfirmScale;
use Emberstone\Core\Orient\FrameFromPoints;
use Emberstone\Core\Orient\Mirror;
use Emberstone\Core\Orient\Scale;
use Emberstone\Core\Orient\SetFrame;
use Emberstone\Core\Orient\Shift;
use Emberstone\Core\Orient\Turn;
use Emberstone\Core\Register\Fixture\ApplyFixture;
use Emberstone\Core\Register\Fixture\SolveFixture;
use Emberstone\Core\Register\Markers\MatchMarkers;
use Emberstone\Core\Register\MatchPasses;
use Emberstone\Core\Register\Move;
use Emberstone\Core\Register\PairPoints;
use Emberstone\Core\Register\Place;
use Emberstone\Core\Register\Register;

/** Every operation there is. The one list that recipes, forms, routes and docs are made from. */
final class Catalogue
{
    /** In the order of the stages. */
    public const OPERATIONS = [
        Simulate::class, SetUnit::class, CutAway::class, KeepOnly::class, Crop::class, DropBase::class, NoiseReport::class, RemoveOutliers::class, RemoveStrays::class, RemoveGrazing::class, RemoveUnsure::class, Thin::class, Copy::class, Discard::class,
        Register::class, MatchPasses::class, MatchMarkers::class, PairPoints::class, Move::class, Place::class, SolveFixture::class, ApplyFixture::class,
        Fuse::class, Rebuild::class, ResolveDoubleSkin::class,
        Inspect::class, Repair::class, FillHoles::class, FillPart::class, LayStrip::class, KeepPieces::class, Despike::class, Smooth::class, ReshapePatch::class,
        Decimate::class, Levels::class, Remesh::class, QuadRemesh::class, DrawQuads::class, FindShapes::class, JoinShapes::class, SplitShape::class,
        AddDatum::class, SetFrame::class, FrameFromPoints::class, Turn::class, Shift::class, Centre::class, Scale::class, ConfirmScale::class, Mirror::class,
        Deliver::class, TakeMeasure::class, Compare::class, Section::class, Outline::class, HeightMap::class, Split::class, Join::class,
        AddBody::class, TakeAway::class, KeepCommon::class, ClearanceCut::class, OpenHole::class, Engrave::class, RepeatAround::class, Thicken::class, SimpleBody::class,
    ];

    /** @return list<string> */
    public static function names(): array
    {
        return array_map(fn (string $class) => $class::about()->name, self::OPERATIONS);
    }

    /**
     * @return Operation<object>
     *
     * @throws InvalidParameter
     */
    public static function operation(string $name): Operation
    {
        foreach (self::OPERATIONS as $class) {
            if ($class::about()->name === $name) {
                // Each knows its own parameters; the name in the recipe picked both.
                return $class === ResolveDoubleSkin::class ? new ResolveDoubleSkin(new Register) : new $class; // @phpstan-ignore return.type
            }
        }
        throw InvalidParameter::of('op', "is \"$name\"; this release knows ".implode(', ', self::names()));
    }

    /**
     * The parameters object of an operation from plain values.
     *
     * @param  array<mixed>  $values
     *
     * @throws InvalidParameter for anything unknown, missing, of the wrong type or out of range
     */
    public static function parameters(string $name, array $values, float $mm = 1.0): object
    {
        $class = self::operation($name)::about()->parameters;
        $specs = ParamSpec::ofClass($class);
        $accepted = [];
        foreach ($values as $key => $value) {
            $spec = array_values(array_filter($specs, fn (ParamSpec $spec) => $spec->name === $key))[0] ?? null;
            if ($spec === null) {
                throw InvalidParameter::of((string) $key, 'is not a parameter of '.$name.'; it knows '.implode(', ', array_map(fn (ParamSpec $spec) => $spec->name, $specs)));
            }
            $accepted[$key] = $spec->accept($spec->inMillimetres($value, $mm, $values['kind'] ?? null));
        }
        foreach ($specs as $spec) {
            if ($spec->required && ! array_key_exists($spec->name, $accepted)) {
                throw InvalidParameter::of($spec->name, 'is required');
            }
        }

        return new $class(...$accepted);
    }

    /** @return list<array<string, mixed>> all of it as plain values, for the interface and the schema */
    public static function describe(): array
    {
        return array_map(function (string $class): array {
            $about = $class::about();
            $specs = ParamSpec::ofClass($about->parameters);
            // Where picks say what it works on, nothing else need say it.
            $isPicked = array_filter($specs, fn (ParamSpec $spec) => in_array($spec->param->picks, ['items', 'region', 'ground'], true) || ($spec->required && in_array($spec->param->picks, ['names', 'selection'], true))) !== [];

            return [
                'name' => $about->name, 'stage' => $about->stage->value, 'label' => $about->label, 'help' => $about->help, 'avoid' => $about->avoid, 'needs' => $about->needs, 'looksOnly' => $about->looksOnly,
                'on' => $isPicked || $about->needs === 'nothing' ? null : ($about->together ? 'together' : 'shown'),
                'parameters' => array_map(fn (ParamSpec $spec) => [
                    'name' => $spec->name, 'type' => $spec->type, 'required' => $spec->required, 'nullable' => $spec->nullable, 'default' => $spec->default,
                    'label' => $spec->param->label, 'help' => $spec->param->help, 'unit' => $spec->param->unit,
                    'min' => $spec->param->positive ? 0.0 : $spec->param->min, 'exclusiveMin' => $spec->param->positive, 'max' => $spec->param->max,
                    'choices' => $spec->param->choices, 'empty' => $spec->param->empty, 'picks' => $spec->param->picks, 'suggested' => $spec->param->suggest !== null,
                    'with' => array_map(fn (string $name) => ['name' => $name, 'value' => $spec->param->with[$name]], array_keys($spec->param->with)),
                ], $specs),
            ];
        }, self::OPERATIONS);
    }

    /**
     * Defaults computed from the data.
     *
     * @return array<string, float|int|null>
     */
    public static function suggestions(string $name, Workpiece $workpiece): array
    {
        $class = self::operation($name)::about()->parameters;
        $values = [];
        foreach (ParamSpec::ofClass($class) as $spec) {
            if ($spec->param->suggest !== null) {
                $values[$spec->name] = $class::{$spec->param->suggest}($workpiece);
            }
        }

        return $values;
    }
}
