# frozen_string_literal: true

module EstrelServer
  module Workers
    # Tells the log which request a job was begun by and how it ended, names the job in every line while it is done, and
    # counts.
    class Told < Delayed::Plugin
      callbacks do |lifecycle|
        lifecycle.after(:enqueue) { |job| Log.info("job queued", job: job.id, queue: job.queue) }
        lifecycle.around(:perform) do |worker, job, *rest, &block|
          Log.with(job: job.id) do
            done, seconds = Figures.timed { block.call(worker, job, *rest) }
            outcome = done ? "done" : "failed"
            Figures.count(:jobs_total, { queue: job.queue.to_s, outcome: outcome })
            Log.info("job #{outcome}", queue: job.queue, seconds: seconds.round(3))
            done
          end
        end
        lifecycle.before(:error) { |_worker, job| job.error && Log.error("job raised", job.error) }
      end
    end
  end
end
