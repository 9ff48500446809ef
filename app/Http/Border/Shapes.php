<?php

declare(strict_types=1);

namespace App\Http\Border;

use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Rigs\Catalogue as Rigs;
use Emberstone\Core\Rigs\Surface;
use LogicException;

/** The shapes that have a name: what the window's types are called after. */
final class Shapes
{
    /** Places of a step in its life. */
    private const STEP_STATES = ['waiting', 'running', 'done', 'failed', 'stopped', 'set-aside'];

    /** @var array<string, Shape>|null */
    private static ?array $all = null;

    /** @throws LogicException where there is none of that name */
    public static function of(string $name): Shape
    {
        return self::all()[$name] ?? throw new LogicException("there is no shape $name");
    }

    /** @return array<string, Shape> those that others hold first */
    public static function all(): array
    {
        return self::$all ??= [
            ...self::items(), ...self::found(), ...self::steps(), ...self::operations(), ...self::captures(), ...self::projects(), ...self::listed(), ...self::previews(), ...self::account(), ...self::receivers(),
        ];
    }

    /** @return array<string, Shape> */
    private static function items(): array
    {
        $place = Shape::numbers(3);
        $matrix = Shape::numbers(16);

        return [
            'Brief' => Shape::object([
                'unit' => Shape::choice(array_column(Unit::cases(), 'value')),
                'up' => Shape::choice(Brief::UP_AXES),
                'faceBudget' => Shape::integer(100, 100_000_000),
                'toleranceMm' => Shape::number(0, 1000, isAbove: true),
                'closed' => Shape::boolean(),
                'leastMeasured' => Shape::number(0, 1),
            ]),
            'Bounds' => Shape::object(['min' => $place, 'max' => $place]),
            'PassItem' => Shape::object([
                'id' => Shape::uuid(),
                'name' => Shape::words(),
                'blob' => Shape::hash(),
                'mask' => Shape::hash()->nullable()->about('a blob of a byte a point, 0 for what was taken out'),
                'points' => Shape::integer(0),
                'kept' => Shape::integer(0),
                'nth' => Shape::integer(0)->optional()->about('in the order the passes came in'),
                'transform' => $matrix->about('from the numbers of the file to millimetres of the project'),
                'residual' => Shape::number()->nullable()->about('mm'),
                'overlap' => Shape::number()->nullable()->about('share of its points that lie on others'),
                'poseError' => Shape::object(['shiftMm' => Shape::number(0), 'turnDeg' => Shape::number(0)])->nullable()->optional()->about('how well registering knows where it stands, one standard deviation'),
                'locked' => Shape::boolean()->optional(),
                'bounds' => Shape::named('Bounds')->optional()->about('mm, in the project'),
                'box' => Shape::named('Bounds')->optional()->about('in the numbers of the file'),
            ]),
            'Hole' => Shape::object([
                'edges' => Shape::integer(3),
                'perimeter' => Shape::number(0)->about('mm'),
                'diameter' => Shape::number(0)->about('mm'),
                'centre' => $place,
                'outline' => Shape::listOf($place)->optional()->about('corners of its rim; results of before have none'),
                'leftOpen' => Shape::boolean()->optional(),
            ]),
            'MeshFigures' => Shape::object([
                'area' => Shape::number(0)->optional()->about('mm2'),
                'measured' => Shape::number(0, 1)->about('share of the area that points support'),
                'madeUp' => Shape::map(Shape::number(0))->optional()->about('share of the area, by what made it'),
                'noiseMm' => Shape::number()->nullable()->optional(),
                'holeCount' => Shape::integer(0),
                'faultCount' => Shape::integer(0),
                'closed' => Shape::boolean(),
                'volume' => Shape::number()->nullable()->about('mm3, of closed bodies'),
                'holes' => Shape::listOf(Shape::named('Hole')),
                'leftOpen' => Shape::integer(0)->optional()->about('holes that stay open on purpose'),
                'distance' => Shape::object(['p95' => Shape::number()])->nullable()->optional()->about('mm, of the points of the passes from the surface'),
            ]),
            'Look' => Shape::object(['colour' => Shape::text(7, 7)->nullable(), 'material' => Shape::text(60, 0)->nullable()])->about('what somebody says that a body looks like and is made of'),
            'BodyItem' => Shape::object([
                'id' => Shape::uuid(),
                'name' => Shape::words(),
                'blob' => Shape::hash(),
                'kind' => Shape::choice(['mesh', 'cloud']),
                'points' => Shape::integer(0),
                'faces' => Shape::integer(0)->about('triangles'),
                'quads' => Shape::integer(0)->optional()->about('four-sided cells, each two of the triangles'),
                'transform' => $matrix->about('from the numbers of the file to millimetres of the project'),
                'figures' => Shape::named('MeshFigures')->optional(),
                'look' => Shape::named('Look')->optional(),
                'nth' => Shape::integer(0)->optional(),
                'locked' => Shape::boolean()->optional(),
            ]),
        ];
    }

    /** @return array<string, Shape> */
    private static function found(): array
    {
        $place = Shape::numbers(3);
        $matrix = Shape::numbers(16);

        return [
            'DatumKind' => Shape::choice(['plane', 'cylinder', 'cone', 'sphere', 'line', 'point', 'frame']),
            'DatumItem' => Shape::object([
                'id' => Shape::words(),
                'name' => Shape::words(),
                'kind' => Shape::named('DatumKind'),
                'origin' => $place,
                'direction' => $place,
                'radius' => Shape::number(0),
                'size' => Shape::number(0),
                'rms' => Shape::number(0)->about('mm'),
                'max' => Shape::number(0)->about('mm'),
                'points' => Shape::integer(0),
                'halfAngleDeg' => Shape::number(),
                'made' => Shape::words(),
                'bodyId' => Shape::words()->nullable()->about('what it moves along with'),
                'parents' => Shape::listOf(Shape::words()),
                'across' => $place->about('X of a frame, whose direction is its Z'),
                'error' => Shape::object(['placeMm' => Shape::number(0), 'angleDeg' => Shape::number(0), 'diameterMm' => Shape::number(0)])->nullable()->optional()->about('one standard deviation of what was picked on a surface or made of others; null for what is fitted'),
            ]),
            'ArtefactItem' => Shape::object([
                'id' => Shape::uuid(),
                'name' => Shape::words(),
                'kind' => Shape::choice(['section', 'shapes', 'height-map', 'delivery', 'levels']),
                'version' => Shape::integer(1),
                'bodyId' => Shape::words()->nullable()->about('what it moves along with'),
                'blob' => Shape::hash()->about('what it holds, as JSON: planes with their curves, shapes with the shape of each face, heights, files, or how a body is at every count of faces'),
                'transform' => $matrix->about('from its numbers to millimetres of the project'),
                'parts' => Shape::integer(0)->about('how many curves, shapes, pictures, files or stops it holds'),
                'surface' => Shape::hash()->nullable()->about('the blob of the body that shapes or levels were found on: of another surface they tell nothing'),
            ]),
        ];
    }

    /** @return array<string, Shape> */
    private static function steps(): array
    {
        return [
            'ShadeMap' => Shape::object([
                'target' => Shape::uuid(),
                'label' => Shape::words(),
                'unit' => Shape::words(),
                'from' => Shape::number(),
                'to' => Shape::number(),
                'band' => Shape::number()->nullable()->optional()->about('to either side of 0, marked beside the colours: a tolerance'),
                'blob' => Shape::hash()->about('a byte a point or vertex: 0 for none, 1 to 255 from `from` to `to`'),
            ]),
            'StepState' => Shape::choice(self::STEP_STATES),
            'StepFigures' => Shape::object([
                'headline' => Shape::words(),
                'notes' => Shape::listOf(Shape::words()),
                'before' => Shape::map(Shape::anything()),
                'after' => Shape::map(Shape::anything()),
                'maps' => Shape::listOf(Shape::named('ShadeMap'))->optional(),
            ]),
            'StepItem' => Shape::object([
                'id' => Shape::integer(1),
                'operation' => Shape::words(),
                'state' => Shape::named('StepState'),
                'progress' => Shape::number(0, 1),
                'doing' => Shape::words()->nullable(),
                'figures' => Shape::named('StepFigures')->nullable(),
                'message' => Shape::words()->nullable(),
                'seconds' => Shape::number()->nullable(),
                'stopAsked' => Shape::boolean(),
                'parameters' => Shape::map(Shape::anything()),
                'on' => Shape::listOf(Shape::uuid())->nullable()->about('ids of what it works on; null for all that it can'),
                'begunAt' => Shape::time()->nullable()->about('when its work began; null while it waits'),
                'expected' => Shape::numbers(2)->nullable()->about('seconds from then on between which eight of ten such steps end here; while it runs'),
                'by' => Shape::words()->nullable()->about('who took it'),
                'isMine' => Shape::boolean()->about('whoever asks took it'),
                'isTheirs' => Shape::boolean()->about('somebody else took it who has an account here'),
                'follows' => Shape::integer(0)->about('steps that wait behind it, and follow when it is done'),
            ]),
            'StepStates' => Shape::object(['before' => Shape::named('Items'), 'after' => Shape::named('Items')])->about('Passes and bodies before a step and after it.'),
            'StepAsked' => Shape::object(['id' => Shape::integer(1)]),
            'Trial' => Shape::object([
                'step' => Shape::named('StepItem'),
                'passes' => Shape::listOf(Shape::named('PassItem'))->nullable()->about('as they would be; null until it is done'),
                'bodies' => Shape::listOf(Shape::named('BodyItem'))->nullable(),
                'artefacts' => Shape::listOf(Shape::named('ArtefactItem'))->nullable(),
            ])->about('A step carried out to be looked at.'),
        ];
    }

    /** @return array<string, Shape> */
    private static function operations(): array
    {
        return [
            'ParameterInfo' => Shape::object([
                'name' => Shape::words(),
                'type' => Shape::words(),
                'required' => Shape::boolean(),
                'nullable' => Shape::boolean(),
                'default' => Shape::anything(),
                'label' => Shape::words(),
                'help' => Shape::words(),
                'unit' => Shape::words(),
                'min' => Shape::number()->nullable(),
                'exclusiveMin' => Shape::boolean(),
                'max' => Shape::number()->nullable(),
                'choices' => Shape::listOf(Shape::words()),
                'picks' => Shape::words()->nullable(),
                'empty' => Shape::words()->about('stands in the empty field: what is taken then'),
                'suggested' => Shape::boolean(),
                'with' => Shape::listOf(Shape::object(['name' => Shape::words(), 'value' => Shape::anything()]))->about('values of other parameters with which it is of use'),
            ]),
            'OperationInfo' => Shape::object([
                'name' => Shape::words(),
                'stage' => Shape::words(),
                'label' => Shape::words(),
                'help' => Shape::words(),
                'avoid' => Shape::words()->about('when not to use it; empty where there is nothing to say'),
                'on' => Shape::choice(['shown', 'together'])->nullable()->about('what it works on unless something is chosen: all shown that suit, or all together; null where picks say it'),
                'looksOnly' => Shape::boolean()->about('it changes nothing and leaves no step'),
                'needs' => Shape::choice(['passes', 'meshes', 'bodies', 'any', 'places', 'nothing']),
                'parameters' => Shape::listOf(Shape::named('ParameterInfo')),
            ]),
            'Estimate' => Shape::object([
                'seconds' => Shape::numbers(2)->about('eight of ten such steps end between them on this machine'),
                'memoryMb' => Shape::number(0),
                'faces' => Shape::integer(0)->nullable(),
                'refusal' => Shape::words()->nullable(),
                'advice' => Shape::words()->nullable(),
            ]),
        ];
    }

    /** @return array<string, Shape> */
    private static function captures(): array
    {
        return [
            'Scanner' => Shape::object([
                'part' => Shape::choice(array_keys(Rigs::PARTS)),
                'rig' => Shape::choice(['handheld', 'turntable', 'ring', 'tripod']),
                'surface' => Shape::choice(array_column(Surface::cases(), 'value'))->optional(),
                'spray' => Shape::boolean()->optional(),
                'dots' => Shape::boolean()->optional(),
                'dotRadius' => Shape::number(0.5, 20)->optional(),
                'dotSpacing' => Shape::number(5, 500)->optional(),
                'seed' => Shape::integer(0, 1_000_000)->optional(),
            ])->about('A simulated scanner.'),
            'Capture' => Shape::object([
                'id' => Shape::uuid(),
                'state' => Shape::choice(['waiting', 'running', 'paused', 'ended', 'failed', 'finished']),
                'scanner' => Shape::named('Scanner')->nullable(),
                'frames' => Shape::integer(0),
                'lost' => Shape::integer(0),
                'isLost' => Shape::boolean(),
                'points' => Shape::integer(0),
                'coverage' => Shape::object(['cells' => Shape::integer(0), 'cellMm' => Shape::number(0), 'thin' => Shape::number(0, 1), 'dense' => Shape::number(0, 1)])->nullable(),
                'standsAt' => Shape::numbers(3)->nullable(),
                'message' => Shape::words()->nullable(),
                'silent' => Shape::boolean(),
            ])->about('A live capture that is not over yet.'),
            'CaptureBegun' => Shape::object(['id' => Shape::uuid(), 'token' => Shape::words()->nullable(), 'address' => Shape::words()]),
            'BridgeOrder' => Shape::object(['do' => Shape::choice(['go', 'pause', 'end']), 'look' => Shape::numbers(3)->nullable(), 'spray' => Shape::boolean()])->about('What a scanner shall do next.'),
        ];
    }

    /** @return array<string, Shape> */
    private static function projects(): array
    {
        return [
            'Items' => Shape::object(['passes' => Shape::listOf(Shape::named('PassItem')), 'bodies' => Shape::listOf(Shape::named('BodyItem'))]),
            'ReadyLine' => Shape::object([
                'key' => Shape::words(),
                'label' => Shape::words(),
                'state' => Shape::choice(['good', 'warn', 'bad']),
                'figure' => Shape::words(),
                'fix' => Shape::words()->nullable(),
            ]),
            'Member' => Shape::object(['id' => Shape::integer(1), 'name' => Shape::words(), 'email' => Shape::email()]),
            'Members' => Shape::object(['members' => Shape::listOf(Shape::named('Member'))]),
            'ScaleConfirmed' => Shape::object(['by' => Shape::words(), 'at' => Shape::time()]),
            'ProjectState' => Shape::object([
                'project' => Shape::object([
                    'id' => Shape::uuid(),
                    'name' => Shape::words(),
                    'brief' => Shape::named('Brief'),
                    'scaleConfirmed' => Shape::named('ScaleConfirmed')->nullable(),
                    'owner' => Shape::words(),
                    'isOwner' => Shape::boolean(),
                    'here' => Shape::listOf(Shape::words())->about('names of others who have it open'),
                    'members' => Shape::listOf(Shape::named('Member')),
                ]),
                'snapshot' => Shape::object([
                    'passes' => Shape::listOf(Shape::named('PassItem')),
                    'bodies' => Shape::listOf(Shape::named('BodyItem')),
                    'datums' => Shape::listOf(Shape::named('DatumItem')),
                    'artefacts' => Shape::listOf(Shape::named('ArtefactItem')),
                    'suggestions' => Shape::map(Shape::map(Shape::number()->nullable())),
                    'oriented' => Shape::boolean(),
                ]),
                'steps' => Shape::listOf(Shape::named('StepItem')),
                'trial' => Shape::named('Trial')->nullable(),
                'capture' => Shape::named('Capture')->nullable(),
                'readyCards' => Shape::map(Shape::listOf(Shape::named('ReadyLine')))->about('of each mesh, by its id'),
                'readyCard' => Shape::listOf(Shape::named('ReadyLine'))->about('of the mesh made last, or of none'),
                'readyBody' => Shape::uuid()->nullable(),
                'next' => Shape::object(['operation' => Shape::words(), 'why' => Shape::words()])->nullable()->about('what a technician would do next with it'),
                'diskUsed' => Shape::number(0, 1)->nullable()->about('share of the disk of the server in use, when it is nearly full'),
                'canUndo' => Shape::boolean(),
                'canRedo' => Shape::boolean(),
            ]),
        ];
    }

    /** @return array<string, Shape> */
    private static function listed(): array
    {
        return [
            'Picture' => Shape::object(['blob' => Shape::hash(), 'transform' => Shape::numbers(16), 'isStored' => Shape::boolean()->about('a still of it can be had at once')]),
            'ProjectCard' => Shape::object([
                'id' => Shape::uuid(),
                'name' => Shape::words(),
                'owner' => Shape::words(),
                'brief' => Shape::named('Brief'),
                'updatedAt' => Shape::time(),
                'passes' => Shape::integer(0),
                'points' => Shape::integer(0),
                'faces' => Shape::integer(0),
                'lengthMm' => Shape::number()->nullable(),
                'ready' => Shape::integer(0)->about('lines of the ready card that are met, of the body made last'),
                'lines' => Shape::integer(0)->about('lines that it has'),
                'readyBodies' => Shape::integer(0)->about('meshes of which every line is met'),
                'bodies' => Shape::integer(0),
                'archived' => Shape::boolean()->about('out of the list until it is asked for'),
                'picture' => Shape::named('Picture')->nullable(),
            ]),
            'ItemFacts' => Shape::object([
                'sizeMm' => Shape::numbers(3)->nullable(),
                'points' => Shape::integer(0),
                'kept' => Shape::integer(0)->nullable(),
                'faces' => Shape::integer(0)->nullable(),
                'quads' => Shape::integer(0)->nullable(),
                'residualMm' => Shape::number()->nullable(),
                'overlap' => Shape::number()->nullable(),
                'areaMm2' => Shape::number()->nullable(),
                'volumeMm3' => Shape::number()->nullable(),
                'pieces' => Shape::integer(0)->nullable(),
                'genus' => Shape::number()->nullable(),
                'measured' => Shape::number(0, 1)->nullable()->about('share of the area that points support'),
                'fileBytes' => Shape::map(Shape::number(0))->about('about, by format'),
                'madeBy' => Shape::integer(1)->nullable()->about('a step'),
                'changedBy' => Shape::listOf(Shape::integer(1))->about('steps'),
            ])->about('What there is to know of a pass or body; null what does not apply to it.'),
            'TextLook' => Shape::object([
                'lines' => Shape::listOf(Shape::listOf(Shape::words())),
                'columns' => Shape::listOf(Shape::words()),
                'heading' => Shape::integer(0),
                'roles' => Shape::listOf(Shape::words()),
            ])->about('The first lines of a text file of points, and what its columns are taken for.'),
            'FixtureHead' => Shape::object(['name' => Shape::words(), 'transform' => Shape::numbers(16), 'residual' => Shape::number()->optional(), 'balls' => Shape::integer(0)->optional(), 'planes' => Shape::integer(0)->optional()]),
            'Fixture' => Shape::object(['fixture' => Shape::integer(1, 1), 'unit' => Shape::words()->optional(), 'heads' => Shape::listOf(Shape::named('FixtureHead'))])->about('Where fixed sensors stand to each other (docs/fixture.md).'),
            'SolvedFixture' => Shape::object(['id' => Shape::integer(1), 'project' => Shape::words(), 'at' => Shape::time(), 'fixture' => Shape::named('Fixture')]),
        ];
    }

    /** @return array<string, Shape> */
    private static function previews(): array
    {
        $place = Shape::numbers(3);

        return [
            'DatumPreview' => Shape::object([
                'datum' => Shape::named('DatumItem'),
                'faces' => Shape::listOf(Shape::integer(0)),
                'whole' => Shape::boolean(),
                'outside' => Shape::listOf(Shape::number())->about('how far the middle of each face lies outside the datum, mm'),
            ]),
            'DatumKindFound' => Shape::object(['kind' => Shape::words(), 'rms' => Shape::map(Shape::number())]),
            'MeasurePreview' => Shape::object([
                'things' => Shape::listOf(Shape::object(['fit' => Shape::words()->about('what was fitted around a click, or the kind of a datum'), 'words' => Shape::words()])),
                'offered' => Shape::listOf(Shape::words())->about('kinds of measurements that can be taken of them, the likely one first'),
                'kind' => Shape::words()->about('the one that was asked for, or the likely one'),
                'measured' => Shape::object(['words' => Shape::words(), 'line' => Shape::listOf($place)])->nullable()->about('null where it takes more than a moment, and where it cannot be told'),
                'why' => Shape::words()->nullable()->about('why it cannot be told, in words'),
            ]),
            'LengthPreview' => Shape::object([
                'factor' => Shape::number(0),
                'lengths' => Shape::listOf(Shape::object(['measured' => Shape::number(), 'actual' => Shape::number(), 'residual' => Shape::number()])),
            ]),
            'PairPreview' => Shape::object([
                'transform' => Shape::numbers(16),
                'residuals' => Shape::listOf(Shape::number()),
                'hint' => $place->nullable(),
                'caution' => Shape::words()->nullable()->about('what the picks hold loosely, in words'),
            ]),
            'FramePreview' => Shape::object([
                'transform' => Shape::numbers(16),
                'locks' => Shape::map(Shape::words()->nullable())->about('the datum that holds each'),
                'idle' => Shape::listOf(Shape::words())->about('a sentence for each datum that locks nothing'),
                'plusMinus' => Shape::map(Shape::number()->nullable())->about('what the fits leave open: degrees, mm'),
            ])->about('The frame that datums set, from the coordinates of the project into it.'),
            'FrameCheckRow' => Shape::object([
                'datum' => Shape::words(),
                'kind' => Shape::named('DatumKind'),
                'what' => Shape::words(),
                'value' => Shape::number(),
                'unit' => Shape::choice(['deg', 'mm']),
                'plusMinus' => Shape::number()->nullable(),
            ])->about('One thing a datum measures in the frame that is set.'),
        ];
    }

    /** @return array<string, Shape> */
    private static function account(): array
    {
        return [
            'SpaceTaken' => Shape::object([
                'used' => Shape::number(0, 1)->about('share of the disk in use'),
                'free' => Shape::number(0),
                'things' => Shape::listOf(Shape::object(['what' => Shape::words(), 'bytes' => Shape::number(0)])),
                'projects' => Shape::listOf(Shape::object(['name' => Shape::words(), 'owner' => Shape::words(), 'bytes' => Shape::number(0)])),
            ])->about('What takes the space of the installation, bytes.'),
            'Session' => Shape::object([
                'name' => Shape::words(),
                'browser' => Shape::words(),
                'address' => Shape::words()->nullable(),
                'seenAt' => Shape::time(),
                'isThis' => Shape::boolean(),
            ]),
            'Sessions' => Shape::object(['sessions' => Shape::listOf(Shape::named('Session'))]),
            'Account' => Shape::object([
                'name' => Shape::words(),
                'email' => Shape::email(),
                'sessions' => Shape::listOf(Shape::named('Session')),
                'space' => Shape::named('SpaceTaken')->nullable()->about('for who looks after the installation'),
                'settings' => Shape::named('Settings')->nullable()->about('for who looks after the installation'),
            ]),
            'Settings' => Shape::object(['receiverLinks' => Shape::boolean()->about('receivers without an account may see what was handed over to them, by a link')]),
        ];
    }

    /** @return array<string, Shape> */
    private static function receivers(): array
    {
        $place = Shape::numbers(3);
        $links = [
            'allowed' => Shape::boolean()->about('links are turned on at this installation'),
            'links' => Shape::listOf(Shape::named('ReceiverLink')),
        ];

        return [
            'ReceiverLink' => Shape::object([
                'id' => Shape::uuid(),
                'artefact' => Shape::uuid()->about('what was handed over'),
                'state' => Shape::choice(['open', 'closed', 'expired']),
                'madeBy' => Shape::words(),
                'madeAt' => Shape::time(),
                'expiresAt' => Shape::time(),
                'visits' => Shape::integer(0),
                'latest' => Shape::listOf(Shape::object(['at' => Shape::time(), 'took' => Shape::words(), 'address' => Shape::words()->nullable(), 'browser' => Shape::words()]))->about('the latest visits'),
            ]),
            'ReceiverLinks' => Shape::object($links),
            'ReceiverLinkMade' => Shape::object(['url' => Shape::words()->about('told here alone: only a hash of it is kept'), ...$links]),
            'Received' => Shape::object([
                'title' => Shape::words(),
                'receiver' => Shape::words(),
                'by' => Shape::words()->nullable(),
                'at' => Shape::time(),
                'expiresAt' => Shape::time(),
                'unit' => Shape::words(),
                'up' => Shape::choice(Brief::UP_AXES),
                'scaleConfirmedBy' => Shape::words()->nullable(),
                'parts' => Shape::listOf(Shape::object([
                    'name' => Shape::words(),
                    'size' => $place->about('mm'),
                    'points' => Shape::integer(0),
                    'faces' => Shape::integer(0)->nullable(),
                    'volume' => Shape::number()->nullable()->about('mm3'),
                    'figures' => Shape::object(['measured' => Shape::number(0, 1)->about('share of the area that scan points support'), 'madeUp' => Shape::map(Shape::number(0, 1))->optional()->about('how the rest came to be, as shares of the area')])->nullable()->about('of a mesh'),
                    'ready' => Shape::listOf(Shape::named('ReadyLine')),
                    'transform' => Shape::numbers(16)->nullable()->about('of what its address gives, in mm; null where there is nothing to look at'),
                ])),
                'measurements' => Shape::listOf(Shape::object(['name' => Shape::words(), 'words' => Shape::words(), 'verdict' => Shape::choice(['in', 'out', 'unsure'])->nullable(), 'line' => Shape::listOf($place)->about('mm')])),
                'files' => Shape::listOf(Shape::object(['name' => Shape::words(), 'size' => Shape::integer(0)->about('bytes'), 'sha256' => Shape::words()])),
            ])->about('One delivery, as its receiver sees it.'),
        ];
    }
}
