<?php

declare(strict_types=1);

use App\Models\Step;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** Which blobs a step's state and figures hold: who may read them, and what the sweep must leave. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::create('step_blobs', function (Blueprint $table): void {
            $table->foreignId('step_id')->constrained()->cascadeOnDelete();
            $table->char('hash', 64)->index();
            $table->primary(['step_id', 'hash']);
        });
        DB::table('steps')->whereNotNull('snapshot')->orderBy('id')->select('id')->each(fn (object $row) => Step::query()->find($row->id)?->tieBlobs());
    }

    public function down(): void
    {
        Schema::dropIfExists('step_blobs');
    }
};
