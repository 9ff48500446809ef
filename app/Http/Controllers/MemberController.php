<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Border\Border;
use App\Models\Project;
use App\Models\User;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\ValidationException;

/** Who else works on a project. Only its owner decides. */
final class MemberController
{
    public function store(Request $request, Project $project): JsonResponse
    {
        $this->onlyTheOwner($request, $project);
        $data = Border::sent($request);
        $user = User::query()->where('email', $data['email'])->first();
        if ($user === null) {
            throw ValidationException::withMessages(['email' => "Nobody here has the address {$data['email']}; whoever looks after this installation makes users with emberstone:user."]);
        }
        $project->welcome($user);

        return response()->json(['members' => self::list($project)], 201);
    }

    public function destroy(Request $request, Project $project, int $member): JsonResponse
    {
        $this->onlyTheOwner($request, $project);
        $project->members()->detach($member);

        return response()->json(['members' => self::list($project)]);
    }

    /** @return list<array{id: int, name: string, email: string}> */
    public static function list(Project $project): array
    {
        return array_values($project->members()->orderBy('name')->get()->map(fn (User $user) => ['id' => $user->id, 'name' => $user->name, 'email' => $user->email])->all());
    }

    private function onlyTheOwner(Request $request, Project $project): void
    {
        abort_unless($project->owner_id === $request->user()?->id, 403, 'Only the owner of the project can invite people or take them out.');
    }
}
