<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('captures', function (Blueprint $table): void {
            $table->uuid('id')->primary();
            $table->foreignUuid('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->constrained()->cascadeOnDelete();
            $table->jsonb('scanner')->nullable();
            $table->char('token_hash', 64);
            $table->string('state', 12);
            $table->jsonb('look')->nullable();
            $table->boolean('spray');
            $table->unsignedInteger('frames');
            $table->unsignedInteger('lost');
            $table->boolean('is_lost');
            $table->unsignedBigInteger('points');
            $table->jsonb('coverage')->nullable();
            $table->jsonb('stands_at')->nullable();
            $table->text('message')->nullable();
            $table->timestamp('beat_at')->nullable();
            $table->timestamps();
        });
    }

    public function down(): void
    {
        Schema::dropIfExists('captures');
    }
};
