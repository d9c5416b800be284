// What stays on the phone: kept in the browser's store, or in memory where it has none.
const memory = new Map();

export class Kept {
  constructor(name) {
    this.name = name;
  }

  read(otherwise) {
    try {
      const text = localStorage.getItem(this.name) ?? memory.get(this.name);
      return text ? JSON.parse(text) : otherwise;
    } catch {
      const text = memory.get(this.name);
      return text ? JSON.parse(text) : otherwise;
    }
  }

  // Whether it is safe: false where closing the page would lose it.
  write(value) {
    const text = JSON.stringify(value);
    memory.set(this.name, text);
    try {
      localStorage.setItem(this.name, text);
      return true;
    } catch {
      return false;
    }
  }
}
