# frozen_string_literal: true

module EstrelServer
  # Something to tell, in words: that the condition of an alert rule held on a date, at most once per rule and date; or
  # that a run of an export failed or waits for a person's word.
  class Alert < Record
    belongs_to :alert_rule, optional: true
    belongs_to :export_run, optional: true

    after_create_commit { Pushing::Notice.of_alert(self) }

    # @param run [ExportRun]
    # @param text [String]
    # @return [void]
    def self.of_run(run, text)
      create!(export_run: run, about: run.as_of, text: "#{run.export.name}: #{text}"[0, 1000], created_at: Time.now.utc)
    end
  end
end
