<?php

declare(strict_types=1);

namespace App\Http\Border;

use App\Http\Controllers\DeliveryController;
use App\Models\ReceiverLink;
use Emberstone\Core\Deliver\FileSizes;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Recipe\Catalogue;
use Illuminate\Http\Request;
use LogicException;

/**
 * What every address takes and answers, in one table. Requests are checked by it before a controller sees them, the tests hold answers to it, and the description at
 * /api/openapi.json and the types of the window are generated from it. What an operation takes stands at its parameters (#[Param]) and is checked by the catalogue.
 */
final class Border
{
    /** @var array<string, Exchange>|null */
    private static ?array $all = null;

    /**
     * What was sent, checked; fields that the address does not know are left out.
     *
     * @return array<string, mixed>
     *
     * @throws \Illuminate\Validation\ValidationException
     */
    public static function sent(Request $request): array
    {
        return $request->validate(self::exchange($request)->takes->rules());
    }

    /** What the address of a request takes and answers. */
    public static function exchange(Request $request): Exchange
    {
        $route = $request->route();
        $key = $request->method().' '.(is_object($route) ? $route->uri() : '');

        return self::all()[$key] ?? throw new LogicException("$key is not in the table of the border");
    }

    /** @return array<string, Exchange> by method and address */
    public static function all(): array
    {
        return self::$all ??= self::table();
    }

    /** @return array<string, Exchange> */
    private static function table(): array
    {
        $named = Shape::named(...);
        $of = fn (string $name): Shape => Shape::listOf($named($name));
        $step = Exchange::answers($named('StepAsked'), 202);
        $on = ['on' => Shape::listOf(Shape::uuid(), 1, 1000)->nullable()->optional()->about('ids of passes and bodies; left out for all that the operation can work on')];
        $parameters = Shape::map(Shape::anything())->optional()->about('as its parameters in GET /api/operations say');
        $known = Shape::choice(Catalogue::names());
        $member = Exchange::answers($named('Members'), 201)->takes(['email' => Shape::email()]);
        $name = Shape::text(least: 1);
        // Each field of a brief that is sent replaces the one before.
        $brief = Shape::object(array_map(fn (Shape $field) => $field->optional(), Shapes::of('Brief')->fields))->optional();
        $ok = Exchange::answers(Shape::object(['ok' => Shape::boolean()]));
        $project = 'api/projects/{project}';

        return [
            'POST sign-in' => Exchange::page()->takes(['email' => Shape::email(), 'password' => Shape::text(255, 1), 'remember' => Shape::anything()->optional()]),
            'POST sign-out' => Exchange::page(),

            'GET api/openapi.json' => Exchange::answers(Shape::map(Shape::anything())),
            'GET api/operations' => Exchange::answers($of('OperationInfo')),
            'GET api/account' => Exchange::answers($named('Account')),
            'DELETE api/account/sessions/{session}' => Exchange::answers($named('Sessions')),
            'PATCH api/account/settings' => Exchange::answers($named('Settings'))->takes(Shapes::of('Settings')->fields),
            'GET api/fixtures' => Exchange::answers($of('SolvedFixture')),
            'GET api/projects' => Exchange::answers($of('ProjectCard')),
            'POST api/projects' => Exchange::answers(Shape::object(['id' => Shape::uuid()]), 201)->takes(['name' => $name, 'brief' => $brief]),
            "GET $project" => Exchange::answers($named('ProjectState')),
            "PATCH $project" => Exchange::answers(Shape::object(['id' => Shape::uuid()]))->takes([
                'name' => $name->optional(), 'brief' => $brief,
                'labels' => Shape::map($name, 500)->optional()->about('names of passes, bodies and datums, by id'),
                'looks' => Shape::map(Shapes::of('Look'), 500)->optional()->about('colours and materials of bodies, by id'),
                'locked' => Shape::listOf(Shape::uuid(), 0, 1000)->optional(), 'tray_order' => Shape::listOf($name, 0, 2000)->optional(), 'archived' => Shape::boolean()->optional()->about('out of the list until it is asked for'),
            ]),
            "DELETE $project" => Exchange::nothing(),

            "POST $project/steps" => $step->takes([
                'operation' => Shape::choice([...Catalogue::names(), 'import']),
                'trial' => Shape::boolean()->optional()->about('carried out to be looked at'),
                'key' => Shape::uuid()->optional()->about('the same key twice is one step'),
                'parameters' => $parameters, ...$on,
            ]),
            "POST $project/steps/{step}/stop" => $step,
            "POST $project/steps/{step}/keep" => Exchange::answers($named('StepAsked')),
            "POST $project/steps/{step}/again" => $step->takes(['parameters' => $parameters->optional()->about('in place of those that it had'), ...$on]),
            "POST $project/steps/{step}/rerun" => $step->takes(['parameters' => $parameters, ...$on]),
            "GET $project/steps/{step}/states" => Exchange::answers($named('StepStates')),
            "DELETE $project/trials" => Exchange::nothing(),
            "POST $project/undo" => $ok->takes(['to' => Shape::integer()->nullable()->optional()->about('the step that shall be the last; the one before the last if left out')]),
            "POST $project/redo" => $ok,

            "POST $project/captures" => Exchange::answers($named('CaptureBegun'), 201)->takes(['scanner' => Shapes::of('Scanner')->nullable()->optional()]),
            "POST $project/captures/{capture}/command" => Exchange::answers($named('Capture')->nullable())->takes(['do' => Shape::choice(['pause', 'go', 'look', 'spray', 'finish', 'drop']), 'direction' => Shape::numbers(3)->optional()]),
            "GET $project/captures/{capture}/coverage" => Exchange::bytes(),
            "POST $project/members" => $member,
            "DELETE $project/members/{member}" => Exchange::answers($named('Members')),

            "POST $project/estimate" => Exchange::answers($named('Estimate'))->takes(['operation' => $known, 'parameters' => $parameters, ...$on]),
            ...self::previews($project),
            ...self::files($project),

            'GET received/{token}' => Exchange::page(),
            'GET api/received/{token}' => Exchange::answers($named('Received')),
            'GET api/received/{token}/parts/{number}' => Exchange::bytes(),
            'GET api/received/{token}/files/{number}' => Exchange::bytes(),
            'GET api/received/{token}/report' => Exchange::bytes()->takes(['format' => Shape::choice(array_keys(DeliveryController::OF_DELIVERIES))]),

            'GET bridge/captures/{id}' => Exchange::answers($named('BridgeOrder')),
            'POST bridge/captures/{id}/frames' => Exchange::answers($named('BridgeOrder')),
            'POST bridge/captures/{id}/end' => Exchange::answers($named('BridgeOrder'))->takes(['message' => Shape::text(500)->nullable()->optional()]),
        ];
    }

    /** @return array<string, Exchange> what is asked before a step, and leaves none */
    private static function previews(string $project): array
    {
        $named = Shape::named(...);
        $atAFace = ['body' => Shape::uuid(), 'face' => Shape::integer(0), 'angle' => Shape::number(1, 60)->about('degrees between neighbours that the area spreads over')];

        return [
            "POST $project/datum-preview" => Exchange::answers($named('DatumPreview'))->takes([
                'body' => $atAFace['body'], 'face' => $atAFace['face']->optional(), 'angle' => $atAFace['angle']->optional(),
                'ranges' => Shape::listOf(Shape::anything(), 1)->optional()->about('faces, as first and last of each run; instead of a face and an angle'),
                'kind' => Shape::choice(['plane', 'cylinder', 'cone', 'sphere']), 'hold' => Shape::map(Shape::anything())->nullable()->optional(),
            ]),
            "POST $project/datum-kind" => Exchange::answers($named('DatumKindFound'))->takes($atAFace),
            "POST $project/measure-preview" => Exchange::answers($named('MeasurePreview'))->takes([
                'of' => Shape::listOf(Shape::anything(), 1, 2)->about('ids of datums, or clicks: {"body", "face", "at", "fit"}, where fit left out is what suits best'), 'kind' => Shape::text(20)->nullable()->optional(),
            ]),
            "POST $project/length-preview" => Exchange::answers($named('LengthPreview'))->takes(['lengths' => Shape::listOf(Shape::anything(), 1, 100)]),
            "POST $project/pair-preview" => Exchange::answers($named('PairPreview'))->takes(['pairs' => Shape::listOf(Shape::anything(), 1, 200), 'moving' => Shape::uuid()->nullable()->optional()]),
            "POST $project/frame-preview" => Exchange::answers($named('FramePreview'))->takes(array_map(fn () => Shape::anything()->optional(), array_flip(['first', 'firstAs', 'second', 'secondAs', 'third', 'offset']))),
            "GET $project/frame-check" => Exchange::answers(Shape::listOf($named('FrameCheckRow'))),
        ];
    }

    /** @return array<string, Exchange> */
    private static function files(string $project): array
    {
        $named = Shape::named(...);

        return [
            "GET $project/blobs/{hash}" => Exchange::bytes(),
            "GET $project/blobs/{hash}/every/{every}" => Exchange::bytes(),
            "GET $project/pictures/{hash}" => Exchange::bytes(),
            "PUT $project/pictures/{hash}" => Exchange::bytes(),
            "GET $project/items/{item}/facts" => Exchange::answers($named('ItemFacts')),
            "GET $project/file" => Exchange::bytes(),
            "GET $project/bodies/{body}/download" => Exchange::bytes()->takes(['format' => Shape::choice(array_values(array_unique([...FileSizes::OF_MESHES, ...FileSizes::OF_CLOUDS, 'step']))), 'frame' => Shape::text(100)->nullable()->optional()]),
            "GET $project/artefacts/{artefact}/download" => Exchange::bytes()->takes(['format' => Shape::choice(['dxf', 'svg', 'csv', 'png', 'xyz', ...array_keys(DeliveryController::OF_DELIVERIES)]), 'side' => Shape::choice(['front', 'back'])->optional()]),
            "GET $project/links" => Exchange::answers($named('ReceiverLinks')),
            "POST $project/links" => Exchange::answers($named('ReceiverLinkMade'), 201)->takes(['artefact' => Shape::uuid()->about('what was handed over'), 'days' => Shape::integer(1, ReceiverLink::MOST_DAYS)->about('until it expires')]),
            "DELETE $project/links/{link}" => Exchange::answers($named('ReceiverLinks')),
            "POST $project/uploads" => Exchange::bytes(),
            "HEAD $project/uploads/{upload}" => Exchange::bytes(),
            "PATCH $project/uploads/{upload}" => Exchange::bytes(),
            "GET $project/uploads/{upload}/columns" => Exchange::answers($named('TextLook')->nullable()),
        ];
    }

    /** What an import takes beside the operations of the catalogue. */
    public static function import(): Shape
    {
        return Shape::object([
            'uploads' => Shape::listOf(Shape::uuid(), 1, 1000),
            'unit' => Shape::choice(array_column(Unit::cases(), 'value'))->nullable()->optional(),
            'columns' => Shape::map(Shape::listOf(Shape::anything(), 0, 200))->optional()->about('of text files: what each column is, by upload'),
        ]);
    }
}
