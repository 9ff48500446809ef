<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Project;
use App\Models\Step;
use App\Models\User;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/** Fixtures that were solved in any project the person sees, the newest first: found once, applied to every later part. */
final class FixtureController
{
    private const MOST = 30;

    public function index(Request $request): JsonResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $steps = Step::query()->with('project')->whereIn('project_id', Project::visibleTo($user)->select('id'))->where('operation', 'solve-fixture')->where('state', 'done')->where('trial', false)->latest('id')->limit(self::MOST)->get();

        return response()->json($steps->map(fn (Step $step) => [
            'id' => $step->id, 'project' => $step->project->name, 'at' => $step->created_at?->toIso8601String(), 'fixture' => $step->figures['after']['fixture'] ?? null,
        ])->filter(fn (array $one) => $one['fixture'] !== null)->values());
    }
}
