<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** One list of ids in place of a list of passes and one of bodies; and which step a step was run again of, so that what it makes keeps its id. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('steps', function (Blueprint $table): void {
            $table->jsonb('works_on')->nullable();
            $table->unsignedBigInteger('origin_id')->nullable();
        });
        $named = "coalesce(targets::jsonb->'passes', '[]'::jsonb) || coalesce(targets::jsonb->'bodies', '[]'::jsonb)";
        DB::statement("update steps set works_on = $named where $named <> '[]'::jsonb");
        // Waiting lines are short: what follows in them is written anew one by one.
        foreach (DB::table('steps')->whereIn('state', ['waiting', 'running'])->get(['id', 'follow_ups']) as $step) {
            $then = array_map(fn (array $next) => ['on' => [...$next['targets']['passes'] ?? [], ...$next['targets']['bodies'] ?? []] ?: null] + array_diff_key($next, ['targets' => 1]), json_decode($step->follow_ups, true) ?? []);
            DB::table('steps')->where('id', $step->id)->update(['follow_ups' => json_encode($then)]);
        }
        Schema::table('steps', fn (Blueprint $table) => $table->dropColumn('targets'));
    }

    public function down(): void
    {
        Schema::table('steps', fn (Blueprint $table) => $table->jsonb('targets')->default('{}'));
        DB::statement("update steps set targets = jsonb_build_object('bodies', works_on) where works_on is not null");
        Schema::table('steps', fn (Blueprint $table) => $table->dropColumn(['works_on', 'origin_id']));
    }
};
