declare module 'parse-prometheus-text-format' {
  interface Family {
    name: string;
    help: string;
    type: 'COUNTER' | 'GAUGE' | 'HISTOGRAM' | 'SUMMARY' | 'UNTYPED';
    metrics: {
      value?: string;
      labels?: { [name: string]: string };
      buckets?: { [upTo: string]: string };
      count?: string;
      sum?: string;
    }[];
  }
  export default function parse(text: string): Family[];
}
